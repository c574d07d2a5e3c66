var yo=Object.defineProperty;var xo=(s,t)=>{for(var e in t)yo(s,e,{get:t[e],enumerable:!0})};import{Box3 as _o}from"three";var vi=0,Ti=1,bi=2,K=0,ot=1,xn=2;var Nt=Math.pow(2,-24),ut=Symbol("SKIP_GENERATION"),Be={strategy:0,maxDepth:40,targetLeafSize:10,useSharedArrayBuffer:!1,setBoundingBox:!0,onProgress:null,indirect:!1,verbose:!0,range:null,[ut]:!1};function R(s,t,e){return e.min.x=t[s],e.min.y=t[s+1],e.min.z=t[s+2],e.max.x=t[s+3],e.max.y=t[s+4],e.max.z=t[s+5],e}function Qt(s){let t=-1,e=-1/0;for(let n=0;n<3;n++){let i=s[n+3]-s[n];i>e&&(e=i,t=n)}return t}function gn(s,t,e){for(let n=0;n<3;n++){let i=t[s+2*n],r=t[s+2*n+1],o=i-r,l=i+r;o<e[n]&&(e[n]=o),l>e[n+3]&&(e[n+3]=l)}}function _e(s){let t=s[3]-s[0],e=s[4]-s[1],n=s[5]-s[2];return 2*(t*e+e*n+n*t)}function F(s,t){return t[s+15]===65535}function O(s,t){return t[s+6]}function z(s,t){return t[s+14]}function C(s){return s+8}function L(s,t){let e=t[s+6];return s+e*8}function ht(s,t){return t[s+7]}function Se(s,t,e,n,i){let r=1/0,o=1/0,l=1/0,c=-1/0,u=-1/0,f=-1/0,a=1/0,p=1/0,d=1/0,h=-1/0,g=-1/0,v=-1/0,T=s.offset||0;for(let m=(t-T)*6,y=(t+e-T)*6;m<y;m+=6){let x=s[m+0],b=s[m+1],S=x-b,w=x+b;S<r&&(r=S),w>c&&(c=w),x<a&&(a=x),x>h&&(h=x);let _=s[m+2],I=s[m+3],B=_-I,P=_+I;B<o&&(o=B),P>u&&(u=P),_<p&&(p=_),_>g&&(g=_);let A=s[m+4],E=s[m+5],M=A-E,D=A+E;M<l&&(l=M),D>f&&(f=D),A<d&&(d=A),A>v&&(v=A)}n[0]=r,n[1]=o,n[2]=l,n[3]=c,n[4]=u,n[5]=f,i[0]=a,i[1]=p,i[2]=d,i[3]=h,i[4]=g,i[5]=v}var ct=8,bn=8,Tn=new Int32Array(ct),rt=new Float32Array(ct*6),Ft=new Float32Array(ct*6),et=new Float32Array(6),Ie=new Float32Array(6),yt=new Int32Array(bn),Ai=new Float32Array(bn*6);function vo(s,t,e,n){for(let i=0;i<3;i++){let r=t[s+2*i],o=t[s+2*i+1],l=r-o,c=r+o;l<e[n+i]&&(e[n+i]=l),c>e[n+i+3]&&(e[n+i+3]=c)}}function Bi(s,t){let e=s[t+3]-s[t],n=s[t+4]-s[t+1],i=s[t+5]-s[t+2];return 2*(e*n+n*i+i*e)}function _i(s,t,e,n,i,r){let o=-1,l=0;if(r===0)o=Qt(t),o!==-1&&(l=(t[o]+t[o+3])/2);else if(r===1)o=Qt(s),o!==-1&&(l=To(e,n,i,o));else if(r===2){let c=_e(s),u=1.25*i,f=e.offset||0,a=(n-f)*6,p=(n+i-f)*6;for(let d=0;d<3;d++){let h=t[d],T=(t[d+3]-h)/ct;if(i<bn){for(let m=0;m<i;m++){let y=a+m*6,x=e[y+2*d],b=m;for(;b>0&&e[yt[b-1]+2*d]>x;)yt[b]=yt[b-1],b--;yt[b]=y}for(let m=0;m<3;m++)et[m]=1/0,et[m+3]=-1/0,Ie[m]=1/0,Ie[m+3]=-1/0;for(let m=i-1;m>=0;m--)gn(yt[m],e,Ie),Ai.set(Ie,m*6);for(let m=0;m<i-1;m++){gn(yt[m],e,et);let y=e[yt[m+1]+2*d];if(e[yt[m]+2*d]===y)continue;let x=m+1,b=i-x,S=_e(et)/c,w=Bi(Ai,x*6)/c,_=1+1.25*(S*x+w*b);_<u&&(o=d,u=_,l=y)}}else{for(let x=0;x<ct;x++){Tn[x]=0;for(let b=0;b<3;b++)rt[x*6+b]=1/0,rt[x*6+b+3]=-1/0}for(let x=a;x<p;x+=6){let w=~~((e[x+2*d]-h)/T);w>=ct&&(w=ct-1),Tn[w]++,vo(x,e,rt,w*6)}let m=(ct-1)*6;for(let x=0;x<6;x++)Ft[m+x]=rt[m+x];for(let x=ct-2;x>=0;x--){let b=x*6,S=b+6;for(let w=0;w<3;w++)Ft[b+w]=Math.min(rt[b+w],Ft[S+w]),Ft[b+w+3]=Math.max(rt[b+w+3],Ft[S+w+3])}let y=0;for(let x=0;x<ct-1;x++){let b=x*6,S=Tn[x];if(S!==0)for(let P=0;P<3;P++)y===0?(et[P]=rt[b+P],et[P+3]=rt[b+P+3]):(et[P]=Math.min(et[P],rt[b+P]),et[P+3]=Math.max(et[P+3],rt[b+P+3]));y+=S;let w=0,_=0;y!==0&&(w=_e(et)/c);let I=i-y;I!==0&&(_=Bi(Ft,b+6)/c);let B=1+1.25*(w*y+_*I);B<u&&(o=d,u=B,l=h+T+x*T)}}}}else console.warn(`BVH: Invalid build strategy value ${r} used.`);return{axis:o,pos:l}}function To(s,t,e,n){let i=0,r=s.offset;for(let o=t,l=t+e;o<l;o++)i+=s[(o-r)*6+n*2];return i/e}function Si(s,t,e,n,i,r){let o=n,l=n+i-1,c=r.pos,u=r.axis*2,f=e.offset||0;for(;;){for(;o<=l&&e[(o-f)*6+u]<c;)o++;for(;o<=l&&e[(l-f)*6+u]>=c;)l--;if(o<l){for(let a=0;a<t;a++){let p=s[o*t+a];s[o*t+a]=s[l*t+a],s[l*t+a]=p}for(let a=0;a<6;a++){let p=o-f,d=l-f,h=e[p*6+a];e[p*6+a]=e[d*6+a],e[d*6+a]=h}o++,l--}else return o}}var bo=Math.pow(2,32),Rt=new Float32Array(6),Pe=new Float32Array(6);function wo(s,t,e,n,i,r){let{maxDepth:o,verbose:l,targetLeafSize:c,_strictLeafSize:u=1/0,strategy:f,onProgress:a,useSharedArrayBuffer:p=!1}=i,d=s.primitiveBuffer,h=s.primitiveBufferStride,g=p?SharedArrayBuffer:ArrayBuffer,v=new g(32*Math.max(1,2*Math.ceil(n)-1)),T=new Float32Array(v),m=new Uint32Array(v),y=new Uint16Array(v),x=0,b=!1;return Se(t,e,n,Rt,Pe),_(e,n,0),v.slice(0,x*32);function S(I){a&&a((I-r.offset)/r.count)}function w(I,B,P){let A=I*2;m[I+6]=B,y[A+14]=P,y[A+15]=65535,S(B+P)}function _(I,B,P){let A=x++,E=A*8;T.set(Rt,E),!b&&P>=o&&(b=!0,l&&console.warn(`BVH: Max depth of ${o} reached when generating BVH. Consider increasing maxDepth.`));let M=B>u;if(B<=c&&!M||P>=o){w(E,I,B);return}let D=_i(Rt,Pe,t,I,B,f),V=D.axis===-1?-1:Si(d,h,t,I,B,D);if(D.axis===-1||V===I||V===I+B){if(!M){w(E,I,B);return}D.axis=Math.max(0,Qt(Rt)),V=I+Math.max(1,Math.floor(B/2))}m[E+7]=D.axis;let mt=V-I;Se(t,I,mt,Rt,Pe),_(I,mt,P+1);let jt=x-A;if(jt>bo)throw new Error("MeshBVH: Cannot store relative child node offset greater than 32 bits.");m[E+6]=jt;let Jt=B-mt;Se(t,V,Jt,Rt,Pe),_(V,Jt,P+1)}}function Ii(s,t){let e=s.getRootRanges(t.range),n=e[0],i=e[e.length-1],r={offset:n.offset,count:i.offset+i.count-n.offset},o=new Float32Array(6*r.count);o.offset=r.offset,s.computePrimitiveBounds(r.offset,r.count,o),s._roots=e.map(l=>wo(s,o,l.offset,l.count,t,r))}import{Box3 as Ao}from"three";var j=class{constructor(t){this._getNewPrimitive=t,this._primitives=[]}getPrimitive(){let t=this._primitives;return t.length===0?this._getNewPrimitive():t.pop()}releasePrimitive(t){this._primitives.push(t)}};var wn=class{constructor(){this.float32Array=null,this.uint16Array=null,this.uint32Array=null;let t=[],e=null;this.setBuffer=n=>{e&&t.push(e),e=n,this.float32Array=new Float32Array(n),this.uint16Array=new Uint16Array(n),this.uint32Array=new Uint32Array(n)},this.clearBuffer=()=>{e=null,this.float32Array=null,this.uint16Array=null,this.uint32Array=null,t.length!==0&&this.setBuffer(t.pop())}}},N=new wn;var xt,Ct,Ot=[],Ee=new j(()=>new Ao);function Pi(s,t,e,n,i,r){xt=Ee.getPrimitive(),Ct=Ee.getPrimitive(),Ot.push(xt,Ct),N.setBuffer(s._roots[t]);let o=An(0,s.geometry,e,n,i,r);N.clearBuffer(),Ee.releasePrimitive(xt),Ee.releasePrimitive(Ct),Ot.pop(),Ot.pop();let l=Ot.length;return l>0&&(Ct=Ot[l-1],xt=Ot[l-2]),o}function An(s,t,e,n,i=null,r=0,o=0){let{float32Array:l,uint16Array:c,uint32Array:u}=N,f=s*2;if(F(f,c)){let p=O(s,u),d=z(f,c);return R(s,l,xt),n(p,d,!1,o,r+s/8,xt)}else{let B=function(A){let{uint16Array:E,uint32Array:M}=N,D=A*2;for(;!F(D,E);)A=C(A),D=A*2;return O(A,M)},P=function(A){let{uint16Array:E,uint32Array:M}=N,D=A*2;for(;!F(D,E);)A=L(A,M),D=A*2;return O(A,M)+z(D,E)},p=C(s),d=L(s,u),h=p,g=d,v,T,m,y;if(i&&(m=xt,y=Ct,R(h,l,m),R(g,l,y),v=i(m),T=i(y),T<v)){h=d,g=p;let A=v;v=T,T=A,m=y}m||(m=xt,R(h,l,m));let x=F(h*2,c),b=e(m,x,v,o+1,r+h/8),S;if(b===2){let A=B(h),M=P(h)-A;S=n(A,M,!0,o+1,r+h/8,m)}else S=b&&An(h,t,e,n,i,r,o+1);if(S)return!0;y=Ct,R(g,l,y);let w=F(g*2,c),_=e(y,w,T,o+1,r+g/8),I;if(_===2){let A=B(g),M=P(g)-A;I=n(A,M,!0,o+1,r+g/8,y)}else I=_&&An(g,t,e,n,i,r,o+1);return!!I}}import{Box3 as ee,Matrix4 as Bo}from"three";var te=new N.constructor,De=new N.constructor,gt=new j(()=>new ee),Lt=new ee,zt=new ee,Bn=new ee,_n=new ee,Sn=!1;function Ei(s,t,e,n){if(Sn)throw new Error("MeshBVH: Recursive calls to bvhcast not supported.");Sn=!0;let i=s._roots,r=t._roots,o,l=0,c=0,u=new Bo().copy(e).invert();for(let f=0,a=i.length;f<a;f++){te.setBuffer(i[f]),c=0;let p=gt.getPrimitive();R(0,te.float32Array,p),p.applyMatrix4(u);for(let d=0,h=r.length;d<h&&(De.setBuffer(r[d]),o=nt(0,0,e,u,n,l,c,0,0,p),De.clearBuffer(),c+=r[d].byteLength/32,!o);d++);if(gt.releasePrimitive(p),te.clearBuffer(),l+=i[f].byteLength/32,o)break}return Sn=!1,o}function nt(s,t,e,n,i,r=0,o=0,l=0,c=0,u=null,f=!1){let a,p;f?(a=De,p=te):(a=te,p=De);let d=a.float32Array,h=a.uint32Array,g=a.uint16Array,v=p.float32Array,T=p.uint32Array,m=p.uint16Array,y=s*2,x=t*2,b=F(y,g),S=F(x,m),w=!1;if(S&&b)f?w=i(O(t,T),z(t*2,m),O(s,h),z(s*2,g),c,o+t/8,l,r+s/8):w=i(O(s,h),z(s*2,g),O(t,T),z(t*2,m),l,r+s/8,c,o+t/8);else if(S){let _=gt.getPrimitive();R(t,v,_),_.applyMatrix4(e);let I=C(s),B=L(s,h);R(I,d,Lt),R(B,d,zt);let P=_.intersectsBox(Lt),A=_.intersectsBox(zt);w=P&&nt(t,I,n,e,i,o,r,c,l+1,_,!f)||A&&nt(t,B,n,e,i,o,r,c,l+1,_,!f),gt.releasePrimitive(_)}else{let _=C(t),I=L(t,T);R(_,v,Bn),R(I,v,_n);let B=u.intersectsBox(Bn),P=u.intersectsBox(_n);if(B&&P)w=nt(s,_,e,n,i,r,o,l,c+1,u,f)||nt(s,I,e,n,i,r,o,l,c+1,u,f);else if(B)if(b)w=nt(s,_,e,n,i,r,o,l,c+1,u,f);else{let A=gt.getPrimitive();A.copy(Bn).applyMatrix4(e);let E=C(s),M=L(s,h);R(E,d,Lt),R(M,d,zt);let D=A.intersectsBox(Lt),V=A.intersectsBox(zt);w=D&&nt(_,E,n,e,i,o,r,c,l+1,A,!f)||V&&nt(_,M,n,e,i,o,r,c,l+1,A,!f),gt.releasePrimitive(A)}else if(P)if(b)w=nt(s,I,e,n,i,r,o,l,c+1,u,f);else{let A=gt.getPrimitive();A.copy(_n).applyMatrix4(e);let E=C(s),M=L(s,h);R(E,d,Lt),R(M,d,zt);let D=A.intersectsBox(Lt),V=A.intersectsBox(zt);w=D&&nt(I,E,n,e,i,o,r,c,l+1,A,!f)||V&&nt(I,M,n,e,i,o,r,c,l+1,A,!f),gt.releasePrimitive(A)}}return w}var Ne=new class{constructor(){let s=null,t=null,e=null,n=!1;this.root=null,this.buffer=null,this.uint32Array=null,this.uint16Array=null,this.setBVH=(r,o)=>{if(n)throw new Error("BVHTraversalHelper: cannot call setBVH during an active traversal.");this.root=o,this.buffer=s=r._roots[o],this.uint16Array=e=new Uint16Array(s),this.uint32Array=t=new Uint32Array(s)},this.reset=()=>{this.root=null,this.buffer=s=null,this.uint16Array=e=null,this.uint32Array=t=null},this.getRangeStart=r=>{let o=r*2;for(;!F(o,e);)r=C(r),o=r*2;return O(r,t)},this.getRangeEnd=r=>{let o=r*2;for(;!F(o,e);)r=L(r,t),o=r*2;return O(r,t)+z(o,e)};let i=(r,o,l)=>{let c=o*2,u=F(c,e);if(!r(l,u,o)&&!u){let a=C(o),p=L(o,t);i(r,a,l+1),i(r,p,l+1)}};this.traverseBuffer=r=>{if(n)throw new Error("BVHTraversalHelper: cannot start a traversal during an active traversal.");n=!0;try{i(r,0,0)}finally{n=!1}},this.traverse=r=>{this.traverseBuffer((o,l,c)=>{if(l){let u=c*2,f=t[c+6],a=e[u+14];return r(o,l,new Float32Array(s,c*4,6),f,a)}else{let u=ht(c,t);return r(o,l,new Float32Array(s,c*4,6),u)}})}}};var Mi=new _o,Vt=new Float32Array(6),Ut=class{constructor(){this._roots=null,this.primitiveBuffer=null,this.primitiveBufferStride=null}init(t){t={...Be,...t},"maxLeafSize"in t&&(console.warn('BVH: "maxLeafSize" option has been deprecated. Use "targetLeafSize", instead.'),t={...t,targetLeafSize:t.maxLeafSize}),Ii(this,t)}getRootRanges(){throw new Error("BVH: getRootRanges() not implemented")}writePrimitiveBounds(){throw new Error("BVH: writePrimitiveBounds() not implemented")}writePrimitiveRangeBounds(t,e,n,i){let r=1/0,o=1/0,l=1/0,c=-1/0,u=-1/0,f=-1/0;for(let a=t,p=t+e;a<p;a++){this.writePrimitiveBounds(a,Vt,0);let[d,h,g,v,T,m]=Vt;d<r&&(r=d),v>c&&(c=v),h<o&&(o=h),T>u&&(u=T),g<l&&(l=g),m>f&&(f=m)}return n[i+0]=r,n[i+1]=o,n[i+2]=l,n[i+3]=c,n[i+4]=u,n[i+5]=f,n}computePrimitiveBounds(t,e,n){let i=n.offset||0;for(let r=t,o=t+e;r<o;r++){this.writePrimitiveBounds(r,Vt,0);let[l,c,u,f,a,p]=Vt,d=(l+f)/2,h=(c+a)/2,g=(u+p)/2,v=(f-l)/2,T=(a-c)/2,m=(p-u)/2,y=(r-i)*6;n[y+0]=d,n[y+1]=v+(Math.abs(d)+v)*Nt,n[y+2]=h,n[y+3]=T+(Math.abs(h)+T)*Nt,n[y+4]=g,n[y+5]=m+(Math.abs(g)+m)*Nt}return n}shiftPrimitiveOffsets(t){let e=this._indirectBuffer;if(e)for(let n=0,i=e.length;n<i;n++)e[n]+=t;else{let n=this._roots;for(let i=0;i<n.length;i++){let r=n[i],o=new Uint32Array(r),l=new Uint16Array(r),c=r.byteLength/32;for(let u=0;u<c;u++){let f=8*u,a=2*f;F(a,l)&&(o[f+6]+=t)}}}}traverse(t,e=0){Ne.setBVH(this,e),Ne.traverse(t),Ne.reset()}refit(){let t=this._roots;for(let e=0,n=t.length;e<n;e++){let i=t[e],r=new Uint32Array(i),o=new Uint16Array(i),l=new Float32Array(i),c=i.byteLength/32;for(let u=c-1;u>=0;u--){let f=u*8,a=f*2;if(F(a,o)){let d=O(f,r),h=z(a,o);this.writePrimitiveRangeBounds(d,h,Vt,0),l.set(Vt,f)}else{let d=C(f),h=L(f,r);for(let g=0;g<3;g++){let v=l[d+g],T=l[d+g+3],m=l[h+g],y=l[h+g+3];l[f+g]=v<m?v:m,l[f+g+3]=T>y?T:y}}}}}getBoundingBox(t){return t.makeEmpty(),this._roots.forEach(n=>{R(0,new Float32Array(n),Mi),t.union(Mi)}),t}shapecast(t){let{boundsTraverseOrder:e,intersectsBounds:n,intersectsRange:i,intersectsPrimitive:r,scratchPrimitive:o,iterate:l}=t;if(i&&r){let a=i;i=(p,d,h,g,v)=>a(p,d,h,g,v)?!0:l(p,d,this,r,h,g,o)}else i||(r?i=(a,p,d,h)=>l(a,p,this,r,d,h,o):i=(a,p,d)=>d);let c=!1,u=0,f=this._roots;for(let a=0,p=f.length;a<p;a++){let d=f[a];if(c=Pi(this,a,n,i,e,u),c)break;u+=d.byteLength/32}return c}bvhcast(t,e,n){let{intersectsRanges:i}=n;return Ei(this,t,e,i)}};import{Box3 as Eo}from"three";function Fe(){return typeof SharedArrayBuffer<"u"}import{BufferAttribute as So}from"three";function ne(s){return s.index?s.index.count:s.attributes.position.count}function vt(s){return ne(s)/3}function In(s,t=ArrayBuffer){return s>65535?new Uint32Array(new t(4*s)):new Uint16Array(new t(2*s))}function Di(s,t){if(!s.index){let e=s.attributes.position.count,n=t.useSharedArrayBuffer?SharedArrayBuffer:ArrayBuffer,i=In(e,n);s.setIndex(new So(i,1));for(let r=0;r<e;r++)i[r]=r}}function Io(s,t,e){let n=ne(s)/e,i=t||s.drawRange,r=i.start/e,o=(i.start+i.count)/e,l=Math.max(0,r),c=Math.min(n,o)-l;return{offset:Math.floor(l),count:Math.floor(c)}}function Po(s,t){return s.groups.map(e=>({offset:e.start/t,count:e.count/t}))}function Pn(s,t,e){let n=Io(s,t,e),i=Po(s,e);if(!i.length)return[n];let r=[],o=n.offset,l=n.offset+n.count,c=ne(s)/e,u=[];for(let p of i){let{offset:d,count:h}=p,g=d,v=isFinite(h)?h:c-d,T=d+v;g<l&&T>o&&(u.push({pos:Math.max(o,g),isStart:!0}),u.push({pos:Math.min(l,T),isStart:!1}))}u.sort((p,d)=>p.pos!==d.pos?p.pos-d.pos:p.type==="end"?-1:1);let f=0,a=null;for(let p of u){let d=p.pos;f!==0&&d!==a&&r.push({offset:a,count:d-a}),f+=p.isStart?1:-1,a=d}return r}function Mo(s,t){let e=s[s.length-1],n=e.offset+e.count>2**16,i=s.reduce((u,f)=>u+f.count,0),r=n?4:2,o=t?new SharedArrayBuffer(i*r):new ArrayBuffer(i*r),l=n?new Uint32Array(o):new Uint16Array(o),c=0;for(let u=0;u<s.length;u++){let{offset:f,count:a}=s[u];for(let p=0;p<a;p++)l[c+p]=f+p;c+=a}return l}var at=class extends Ut{get indirect(){return!!this._indirectBuffer}get primitiveStride(){return null}get primitiveBufferStride(){return this.indirect?1:this.primitiveStride}set primitiveBufferStride(t){}get primitiveBuffer(){return this.indirect?this._indirectBuffer:this.geometry.index.array}set primitiveBuffer(t){}constructor(t,e={}){if(t.isBufferGeometry){if(t.index&&t.index.isInterleavedBufferAttribute)throw new Error("BVH: InterleavedBufferAttribute is not supported for the index attribute.")}else throw new Error("BVH: Only BufferGeometries are supported.");if(e.useSharedArrayBuffer&&!Fe())throw new Error("BVH: SharedArrayBuffer is not available.");super(),this.geometry=t,this.resolvePrimitiveIndex=e.indirect?n=>this._indirectBuffer[n]:n=>n,this.primitiveBuffer=null,this.primitiveBufferStride=null,this._indirectBuffer=null,e={...Be,...e},e[ut]||this.init(e)}init(t){let{geometry:e,primitiveStride:n}=this;if(t.indirect){let i=Pn(e,t.range,n),r=Mo(i,t.useSharedArrayBuffer);this._indirectBuffer=r}else Di(e,t);super.init(t),!e.boundingBox&&t.setBoundingBox&&(e.boundingBox=this.getBoundingBox(new Eo))}getRootRanges(t){return this.indirect?[{offset:0,count:this._indirectBuffer.length}]:Pn(this.geometry,t,this.primitiveStride)}raycastObject3D(){throw new Error("BVH: raycastObject3D() not implemented")}};import{BufferAttribute as rr,FrontSide as ps,Ray as cr,Vector3 as ys,Matrix4 as ar}from"three";import{Vector3 as Tt,Matrix4 as Oi,Line3 as Ci}from"three";import{Vector3 as Do}from"three";var $=class{constructor(){this.min=1/0,this.max=-1/0}setFromPointsField(t,e){let n=1/0,i=-1/0;for(let r=0,o=t.length;r<o;r++){let c=t[r][e];n=c<n?c:n,i=c>i?c:i}this.min=n,this.max=i}setFromPoints(t,e){let n=1/0,i=-1/0;for(let r=0,o=e.length;r<o;r++){let l=e[r],c=t.dot(l);n=c<n?c:n,i=c>i?c:i}this.min=n,this.max=i}isSeparated(t){return this.min>t.max||t.min>this.max}};$.prototype.setFromBox=(function(){let s=new Do;return function(e,n){let i=n.min,r=n.max,o=1/0,l=-1/0;for(let c=0;c<=1;c++)for(let u=0;u<=1;u++)for(let f=0;f<=1;f++){s.x=i.x*c+r.x*(1-c),s.y=i.y*u+r.y*(1-u),s.z=i.z*f+r.z*(1-f);let a=e.dot(s);o=Math.min(a,o),l=Math.max(a,l)}this.min=o,this.max=l}})();import{Triangle as Co,Vector3 as it,Vector2 as Fi,Line3 as Ht,Plane as Lo}from"three";import{Vector3 as wt,Vector2 as No,Plane as Fo,Line3 as Ro}from"three";var Oo=(function(){let s=new wt,t=new wt,e=new wt;return function(i,r,o){let l=i.start,c=s,u=r.start,f=t;e.subVectors(l,u),s.subVectors(i.end,i.start),t.subVectors(r.end,r.start);let a=e.dot(f),p=f.dot(c),d=f.dot(f),h=e.dot(c),v=c.dot(c)*d-p*p,T,m;v!==0?T=(a*p-h*d)/v:T=0,m=(a+T*p)/d,o.x=T,o.y=m}})(),ie=(function(){let s=new No,t=new wt,e=new wt;return function(i,r,o,l){Oo(i,r,s);let c=s.x,u=s.y;if(c>=0&&c<=1&&u>=0&&u<=1){i.at(c,o),r.at(u,l);return}else if(c>=0&&c<=1){u<0?r.at(0,l):r.at(1,l),i.closestPointToPoint(l,!0,o);return}else if(u>=0&&u<=1){c<0?i.at(0,o):i.at(1,o),r.closestPointToPoint(o,!0,l);return}else{let f;c<0?f=i.start:f=i.end;let a;u<0?a=r.start:a=r.end;let p=t,d=e;if(i.closestPointToPoint(a,!0,t),r.closestPointToPoint(f,!0,e),p.distanceToSquared(a)<=d.distanceToSquared(f)){o.copy(p),l.copy(a);return}else{o.copy(f),l.copy(d);return}}}})(),Ni=(function(){let s=new wt,t=new wt,e=new Fo,n=new Ro;return function(r,o){let{radius:l,center:c}=r,{a:u,b:f,c:a}=o;if(n.start=u,n.end=f,n.closestPointToPoint(c,!0,s).distanceTo(c)<=l||(n.start=u,n.end=a,n.closestPointToPoint(c,!0,s).distanceTo(c)<=l)||(n.start=f,n.end=a,n.closestPointToPoint(c,!0,s).distanceTo(c)<=l))return!0;let g=o.getPlane(e);if(Math.abs(g.distanceToPoint(c))<=l){let T=g.projectPoint(c,t);if(o.containsPoint(T))return!0}return!1}})();var zo=["x","y","z"],ft=1e-15,Ri=ft*ft;function J(s){return Math.abs(s)<ft}var q=class extends Co{constructor(...t){super(...t),this.isExtendedTriangle=!0,this.satAxes=new Array(4).fill().map(()=>new it),this.satBounds=new Array(4).fill().map(()=>new $),this.points=[this.a,this.b,this.c],this.plane=new Lo,this.isDegenerateIntoSegment=!1,this.isDegenerateIntoPoint=!1,this.degenerateSegment=new Ht,this.needsUpdate=!0}intersectsSphere(t){return Ni(t,this)}update(){let t=this.a,e=this.b,n=this.c,i=this.points,r=this.satAxes,o=this.satBounds,l=r[0],c=o[0];this.getNormal(l),c.setFromPoints(l,i);let u=r[1],f=o[1];u.subVectors(t,e),f.setFromPoints(u,i);let a=r[2],p=o[2];a.subVectors(e,n),p.setFromPoints(a,i);let d=r[3],h=o[3];d.subVectors(n,t),h.setFromPoints(d,i);let g=u.length(),v=a.length(),T=d.length();this.isDegenerateIntoPoint=!1,this.isDegenerateIntoSegment=!1,g<ft?v<ft||T<ft?this.isDegenerateIntoPoint=!0:(this.isDegenerateIntoSegment=!0,this.degenerateSegment.start.copy(t),this.degenerateSegment.end.copy(n)):v<ft?T<ft?this.isDegenerateIntoPoint=!0:(this.isDegenerateIntoSegment=!0,this.degenerateSegment.start.copy(e),this.degenerateSegment.end.copy(t)):T<ft&&(this.isDegenerateIntoSegment=!0,this.degenerateSegment.start.copy(n),this.degenerateSegment.end.copy(e)),this.plane.setFromNormalAndCoplanarPoint(l,t),this.needsUpdate=!1}};q.prototype.closestPointToSegment=(function(){let s=new it,t=new it,e=new Ht;return function(i,r=null,o=null){this.needsUpdate&&this.update();let{start:l,end:c}=i,u=this.points,f,a=1/0,p=this.plane.distanceToPoint(l),d=this.plane.distanceToPoint(c);if(p*d<0&&this.plane.intersectLine(i,s)!==null&&this.containsPoint(s))return r&&r.copy(s),o&&o.copy(s),0;for(let h=0;h<3;h++){let g=(h+1)%3;e.start.copy(u[h]),e.end.copy(u[g]),ie(e,i,s,t),f=s.distanceToSquared(t),f<a&&(a=f,r&&r.copy(s),o&&o.copy(t))}return this.closestPointToPoint(l,s),f=l.distanceToSquared(s),f<a&&(a=f,r&&r.copy(s),o&&o.copy(l)),this.closestPointToPoint(c,s),f=c.distanceToSquared(s),f<a&&(a=f,r&&r.copy(s),o&&o.copy(c)),Math.sqrt(a)}})();q.prototype.intersectsTriangle=(function(){let s=new q,t=new $,e=new $,n=new it,i=new it,r=new it,o=new it,l=new Ht,c=new Ht,u=new it,f=new Fi,a=new Fi;function p(y,x,b,S){let w=n;!y.isDegenerateIntoPoint&&!y.isDegenerateIntoSegment?w.copy(y.plane.normal):w.copy(x.plane.normal);let _=y.satBounds,I=y.satAxes;for(let A=1;A<4;A++){let E=_[A],M=I[A];if(t.setFromPoints(M,x.points),E.isSeparated(t)||(o.copy(w).cross(M),t.setFromPoints(o,y.points),e.setFromPoints(o,x.points),t.isSeparated(e)))return!1}let B=x.satBounds,P=x.satAxes;for(let A=1;A<4;A++){let E=B[A],M=P[A];if(t.setFromPoints(M,y.points),E.isSeparated(t)||(o.crossVectors(w,M),t.setFromPoints(o,y.points),e.setFromPoints(o,x.points),t.isSeparated(e)))return!1}return b&&(S||console.warn("ExtendedTriangle.intersectsTriangle: Triangles are coplanar which does not support an output edge. Setting edge to 0, 0, 0."),b.start.set(0,0,0),b.end.set(0,0,0)),!0}function d(y,x,b,S,w,_,I,B,P,A,E){let M=I/(I-B);A.x=S+(w-S)*M,E.start.subVectors(x,y).multiplyScalar(M).add(y),M=I/(I-P),A.y=S+(_-S)*M,E.end.subVectors(b,y).multiplyScalar(M).add(y)}function h(y,x,b,S,w,_,I,B,P,A,E){if(w>0)d(y.c,y.a,y.b,S,x,b,P,I,B,A,E);else if(_>0)d(y.b,y.a,y.c,b,x,S,B,I,P,A,E);else if(B*P>0||I!=0)d(y.a,y.b,y.c,x,b,S,I,B,P,A,E);else if(B!=0)d(y.b,y.a,y.c,b,x,S,B,I,P,A,E);else if(P!=0)d(y.c,y.a,y.b,S,x,b,P,I,B,A,E);else return!0;return!1}function g(y,x,b,S){let w=x.degenerateSegment,_=y.plane.distanceToPoint(w.start),I=y.plane.distanceToPoint(w.end);return J(_)?J(I)?p(y,x,b,S):(b&&(b.start.copy(w.start),b.end.copy(w.start)),y.containsPoint(w.start)):J(I)?(b&&(b.start.copy(w.end),b.end.copy(w.end)),y.containsPoint(w.end)):y.plane.intersectLine(w,n)!=null?(b&&(b.start.copy(n),b.end.copy(n)),y.containsPoint(n)):!1}function v(y,x,b){let S=x.a;return J(y.plane.distanceToPoint(S))&&y.containsPoint(S)?(b&&(b.start.copy(S),b.end.copy(S)),!0):!1}function T(y,x,b){let S=y.degenerateSegment,w=x.a;return S.closestPointToPoint(w,!0,n),w.distanceToSquared(n)<Ri?(b&&(b.start.copy(w),b.end.copy(w)),!0):!1}function m(y,x,b,S){if(y.isDegenerateIntoSegment)if(x.isDegenerateIntoSegment){let w=y.degenerateSegment,_=x.degenerateSegment,I=i,B=r;w.delta(I),_.delta(B);let P=n.subVectors(_.start,w.start),A=I.x*B.y-I.y*B.x;if(J(A))return!1;let E=(P.x*B.y-P.y*B.x)/A,M=-(I.x*P.y-I.y*P.x)/A;if(E<0||E>1||M<0||M>1)return!1;let D=w.start.z+I.z*E,V=_.start.z+B.z*M;return J(D-V)?(b&&(b.start.copy(w.start).addScaledVector(I,E),b.end.copy(w.start).addScaledVector(I,E)),!0):!1}else return x.isDegenerateIntoPoint?T(y,x,b):g(x,y,b,S);else{if(y.isDegenerateIntoPoint)return x.isDegenerateIntoPoint?x.a.distanceToSquared(y.a)<Ri?(b&&(b.start.copy(y.a),b.end.copy(y.a)),!0):!1:x.isDegenerateIntoSegment?T(x,y,b):v(x,y,b);if(x.isDegenerateIntoPoint)return v(y,x,b);if(x.isDegenerateIntoSegment)return g(y,x,b,S)}}return function(x,b=null,S=!1){this.needsUpdate&&this.update(),x.isExtendedTriangle?x.needsUpdate&&x.update():(s.copy(x),s.update(),x=s);let w=m(this,x,b,S);if(w!==void 0)return w;let _=this.plane,I=x.plane,B=I.distanceToPoint(this.a),P=I.distanceToPoint(this.b),A=I.distanceToPoint(this.c);J(B)&&(B=0),J(P)&&(P=0),J(A)&&(A=0);let E=B*P,M=B*A;if(E>0&&M>0)return!1;let D=_.distanceToPoint(x.a),V=_.distanceToPoint(x.b),mt=_.distanceToPoint(x.c);J(D)&&(D=0),J(V)&&(V=0),J(mt)&&(mt=0);let jt=D*V,Jt=D*mt;if(jt>0&&Jt>0)return!1;i.copy(_.normal),r.copy(I.normal);let dn=i.cross(r),mn=0,hn=Math.abs(dn.x),gi=Math.abs(dn.y);gi>hn&&(hn=gi,mn=1),Math.abs(dn.z)>hn&&(mn=2);let Dt=zo[mn],lo=this.a[Dt],uo=this.b[Dt],fo=this.c[Dt],po=x.a[Dt],mo=x.b[Dt],ho=x.c[Dt];if(h(this,lo,uo,fo,E,M,B,P,A,f,l))return p(this,x,b,S);if(h(x,po,mo,ho,jt,Jt,D,V,mt,a,c))return p(this,x,b,S);if(f.y<f.x){let yn=f.y;f.y=f.x,f.x=yn,u.copy(l.start),l.start.copy(l.end),l.end.copy(u)}if(a.y<a.x){let yn=a.y;a.y=a.x,a.x=yn,u.copy(c.start),c.start.copy(c.end),c.end.copy(u)}return f.y<a.x||a.y<f.x?!1:(b&&(a.x>f.x?b.start.copy(c.start):b.start.copy(l.start),a.y<f.y?b.end.copy(c.end):b.end.copy(l.end)),!0)}})();q.prototype.distanceToPoint=(function(){let s=new it;return function(e){return this.closestPointToPoint(e,s),e.distanceTo(s)}})();q.prototype.distanceToTriangle=(function(){let s=new it,t=new it,e=["a","b","c"],n=new Ht,i=new Ht;return function(o,l=null,c=null){let u=l||c?n:null;if(this.intersectsTriangle(o,u,!0))return(l||c)&&(l&&u.getCenter(l),c&&u.getCenter(c)),0;let f=1/0;for(let a=0;a<3;a++){let p,d=e[a],h=o[d];this.closestPointToPoint(h,s),p=h.distanceToSquared(s),p<f&&(f=p,l&&l.copy(s),c&&c.copy(h));let g=this[d];o.closestPointToPoint(g,s),p=g.distanceToSquared(s),p<f&&(f=p,l&&l.copy(g),c&&c.copy(s))}for(let a=0;a<3;a++){let p=e[a],d=e[(a+1)%3];n.set(this[p],this[d]);for(let h=0;h<3;h++){let g=e[h],v=e[(h+1)%3];i.set(o[g],o[v]),ie(n,i,s,t);let T=s.distanceToSquared(t);T<f&&(f=T,l&&l.copy(s),c&&c.copy(t))}}return Math.sqrt(f)}})();var H=class{constructor(t,e,n){this.isOrientedBox=!0,this.min=new Tt,this.max=new Tt,this.matrix=new Oi,this.invMatrix=new Oi,this.points=new Array(8).fill().map(()=>new Tt),this.satAxes=new Array(3).fill().map(()=>new Tt),this.satBounds=new Array(3).fill().map(()=>new $),this.alignedSatBounds=new Array(3).fill().map(()=>new $),this.needsUpdate=!1,t&&this.min.copy(t),e&&this.max.copy(e),n&&this.matrix.copy(n)}set(t,e,n){this.min.copy(t),this.max.copy(e),this.matrix.copy(n),this.needsUpdate=!0}copy(t){this.min.copy(t.min),this.max.copy(t.max),this.matrix.copy(t.matrix),this.needsUpdate=!0}};H.prototype.update=(function(){return function(){let t=this.matrix,e=this.min,n=this.max,i=this.points;for(let u=0;u<=1;u++)for(let f=0;f<=1;f++)for(let a=0;a<=1;a++){let p=1*u|2*f|4*a,d=i[p];d.x=u?n.x:e.x,d.y=f?n.y:e.y,d.z=a?n.z:e.z,d.applyMatrix4(t)}let r=this.satBounds,o=this.satAxes,l=i[0];for(let u=0;u<3;u++){let f=o[u],a=r[u],p=1<<u,d=i[p];f.subVectors(l,d),a.setFromPoints(f,i)}let c=this.alignedSatBounds;c[0].setFromPointsField(i,"x"),c[1].setFromPointsField(i,"y"),c[2].setFromPointsField(i,"z"),this.invMatrix.copy(this.matrix).invert(),this.needsUpdate=!1}})();H.prototype.intersectsBox=(function(){let s=new $;return function(e){this.needsUpdate&&this.update();let n=e.min,i=e.max,r=this.satBounds,o=this.satAxes,l=this.alignedSatBounds;if(s.min=n.x,s.max=i.x,l[0].isSeparated(s)||(s.min=n.y,s.max=i.y,l[1].isSeparated(s))||(s.min=n.z,s.max=i.z,l[2].isSeparated(s)))return!1;for(let c=0;c<3;c++){let u=o[c],f=r[c];if(s.setFromBox(u,e),f.isSeparated(s))return!1}return!0}})();H.prototype.intersectsTriangle=(function(){let s=new q,t=new Array(3),e=new $,n=new $,i=new Tt;return function(o){this.needsUpdate&&this.update(),o.isExtendedTriangle?o.needsUpdate&&o.update():(s.copy(o),s.update(),o=s);let l=this.satBounds,c=this.satAxes;t[0]=o.a,t[1]=o.b,t[2]=o.c;for(let p=0;p<3;p++){let d=l[p],h=c[p];if(e.setFromPoints(h,t),d.isSeparated(e))return!1}let u=o.satBounds,f=o.satAxes,a=this.points;for(let p=0;p<3;p++){let d=u[p],h=f[p];if(e.setFromPoints(h,a),d.isSeparated(e))return!1}for(let p=0;p<3;p++){let d=c[p];for(let h=0;h<4;h++){let g=f[h];if(i.crossVectors(d,g),e.setFromPoints(i,t),n.setFromPoints(i,a),e.isSeparated(n))return!1}}return!0}})();H.prototype.closestPointToPoint=(function(){return function(t,e){return this.needsUpdate&&this.update(),e.copy(t).applyMatrix4(this.invMatrix).clamp(this.min,this.max).applyMatrix4(this.matrix),e}})();H.prototype.distanceToPoint=(function(){let s=new Tt;return function(e){return this.closestPointToPoint(e,s),e.distanceTo(s)}})();H.prototype.distanceToBox=(function(){let s=["x","y","z"],t=new Array(12).fill().map(()=>new Ci),e=new Array(12).fill().map(()=>new Ci),n=new Tt,i=new Tt;return function(o,l=0,c=null,u=null){if(this.needsUpdate&&this.update(),this.intersectsBox(o))return(c||u)&&(o.getCenter(i),this.closestPointToPoint(i,n),o.closestPointToPoint(n,i),c&&c.copy(n),u&&u.copy(i)),0;let f=l*l,a=o.min,p=o.max,d=this.points,h=1/0;for(let v=0;v<8;v++){let T=d[v];i.copy(T).clamp(a,p);let m=T.distanceToSquared(i);if(m<h&&(h=m,c&&c.copy(T),u&&u.copy(i),m<f))return Math.sqrt(m)}let g=0;for(let v=0;v<3;v++)for(let T=0;T<=1;T++)for(let m=0;m<=1;m++){let y=(v+1)%3,x=(v+2)%3,b=T<<y|m<<x,S=1<<v|T<<y|m<<x,w=d[b],_=d[S];t[g].set(w,_);let B=s[v],P=s[y],A=s[x],E=e[g],M=E.start,D=E.end;M[B]=a[B],M[P]=T?a[P]:p[P],M[A]=m?a[A]:p[A],D[B]=p[B],D[P]=T?a[P]:p[P],D[A]=m?a[A]:p[A],g++}for(let v=0;v<=1;v++)for(let T=0;T<=1;T++)for(let m=0;m<=1;m++){i.x=v?p.x:a.x,i.y=T?p.y:a.y,i.z=m?p.z:a.z,this.closestPointToPoint(i,n);let y=i.distanceToSquared(n);if(y<h&&(h=y,c&&c.copy(n),u&&u.copy(i),y<f))return Math.sqrt(y)}for(let v=0;v<12;v++){let T=t[v];for(let m=0;m<12;m++){let y=e[m];ie(T,y,n,i);let x=n.distanceToSquared(i);if(x<h&&(h=x,c&&c.copy(n),u&&u.copy(i),x<f))return Math.sqrt(x)}}return Math.sqrt(h)}})();var En=class extends j{constructor(){super(()=>new q)}},Z=new En;import{Vector3 as Li}from"three";var se=new Li,Mn=new Li;function zi(s,t,e={},n=0,i=1/0){let r=n*n,o=i*i,l=1/0,c=null;if(s.shapecast({boundsTraverseOrder:f=>(se.copy(t).clamp(f.min,f.max),se.distanceToSquared(t)),intersectsBounds:(f,a,p)=>p<l&&p<o,intersectsTriangle:(f,a)=>{f.closestPointToPoint(t,se);let p=t.distanceToSquared(se);return p<l&&(Mn.copy(se),l=p,c=a),p<r}}),l===1/0)return null;let u=Math.sqrt(l);return e.point?e.point.copy(Mn):e.point=Mn.clone(),e.distance=u,e.faceIndex=c,e}import{Vector3 as lt,Vector2 as ce,Triangle as oe,DoubleSide as Vo,BackSide as Uo,REVISION as Wi}from"three";var Re=parseInt(Wi)>=169,Ho=parseInt(Wi)<=161,At=new lt,Bt=new lt,_t=new lt,Oe=new ce,Ce=new ce,Le=new ce,Vi=new lt,Ui=new lt,Hi=new lt,re=new lt;function ko(s,t,e,n,i,r,o,l){let c;if(r===Uo?c=s.intersectTriangle(n,e,t,!0,i):c=s.intersectTriangle(t,e,n,r!==Vo,i),c===null)return null;let u=s.origin.distanceTo(i);return u<o||u>l?null:{distance:u,point:i.clone()}}function ki(s,t,e,n,i,r,o,l,c,u,f){At.fromBufferAttribute(t,r),Bt.fromBufferAttribute(t,o),_t.fromBufferAttribute(t,l);let a=ko(s,At,Bt,_t,re,c,u,f);if(a){if(n){Oe.fromBufferAttribute(n,r),Ce.fromBufferAttribute(n,o),Le.fromBufferAttribute(n,l),a.uv=new ce;let d=oe.getInterpolation(re,At,Bt,_t,Oe,Ce,Le,a.uv);Re||(a.uv=d)}if(i){Oe.fromBufferAttribute(i,r),Ce.fromBufferAttribute(i,o),Le.fromBufferAttribute(i,l),a.uv1=new ce;let d=oe.getInterpolation(re,At,Bt,_t,Oe,Ce,Le,a.uv1);Re||(a.uv1=d),Ho&&(a.uv2=a.uv1)}if(e){Vi.fromBufferAttribute(e,r),Ui.fromBufferAttribute(e,o),Hi.fromBufferAttribute(e,l),a.normal=new lt;let d=oe.getInterpolation(re,At,Bt,_t,Vi,Ui,Hi,a.normal);a.normal.dot(s.direction)>0&&a.normal.multiplyScalar(-1),Re||(a.normal=d)}let p={a:r,b:o,c:l,normal:new lt,materialIndex:0};if(oe.getNormal(At,Bt,_t,p.normal),a.face=p,a.faceIndex=r,Re){let d=new lt;oe.getBarycoord(re,At,Bt,_t,d),a.barycoord=d}}return a}function qi(s){return s&&s.isMaterial?s.side:s}function kt(s,t,e,n,i,r,o){let l=n*3,c=l+0,u=l+1,f=l+2,{index:a,groups:p}=s;s.index&&(c=a.getX(c),u=a.getX(u),f=a.getX(f));let{position:d,normal:h,uv:g,uv1:v}=s.attributes;if(Array.isArray(t)){let T=n*3;for(let m=0,y=p.length;m<y;m++){let{start:x,count:b,materialIndex:S}=p[m];if(T>=x&&T<x+b){let w=qi(t[S]),_=ki(e,d,h,g,v,c,u,f,w,r,o);if(_)if(_.faceIndex=n,_.face.materialIndex=S,i)i.push(_);else return _}}}else{let T=qi(t),m=ki(e,d,h,g,v,c,u,f,T,r,o);if(m)if(m.faceIndex=n,m.face.materialIndex=0,i)i.push(m);else return m}return null}import{Vector2 as Ve,Vector3 as qt,Triangle as ze}from"three";function U(s,t,e,n){let i=s.a,r=s.b,o=s.c,l=t,c=t+1,u=t+2;e&&(l=e.getX(l),c=e.getX(c),u=e.getX(u)),i.x=n.getX(l),i.y=n.getY(l),i.z=n.getZ(l),r.x=n.getX(c),r.y=n.getY(c),r.z=n.getZ(c),o.x=n.getX(u),o.y=n.getY(u),o.z=n.getZ(u)}var ae=new qt,le=new qt,ue=new qt,Xi=new Ve,Gi=new Ve,Yi=new Ve;function qo(s,t,e,n){let i=t.getIndex().array,r=t.getAttribute("position"),o=t.getAttribute("uv"),l=i[e*3],c=i[e*3+1],u=i[e*3+2];ae.fromBufferAttribute(r,l),le.fromBufferAttribute(r,c),ue.fromBufferAttribute(r,u);let f=0,a=t.groups,p=e*3;for(let g=0,v=a.length;g<v;g++){let T=a[g],{start:m,count:y}=T;if(p>=m&&p<m+y){f=T.materialIndex;break}}let d=n&&n.barycoord?n.barycoord:new qt;ze.getBarycoord(s,ae,le,ue,d);let h=null;return o&&(Xi.fromBufferAttribute(o,l),Gi.fromBufferAttribute(o,c),Yi.fromBufferAttribute(o,u),n&&n.uv?h=n.uv:h=new Ve,ze.getInterpolation(s,ae,le,ue,Xi,Gi,Yi,h)),n?(n.face||(n.face={}),n.face.a=l,n.face.b=c,n.face.c=u,n.face.materialIndex=f,n.face.normal||(n.face.normal=new qt),ze.getNormal(ae,le,ue,n.face.normal),h&&(n.uv=h),n.barycoord=d,n):{face:{a:l,b:c,c:u,materialIndex:f,normal:ze.getNormal(ae,le,ue,new qt)},uv:h,barycoord:d}}function Zi(s,t,e,n,i,r,o,l){let{geometry:c,_indirectBuffer:u}=s;for(let f=n,a=n+i;f<a;f++)kt(c,t,e,f,r,o,l)}function Ki(s,t,e,n,i,r,o){let{geometry:l,_indirectBuffer:c}=s,u=1/0,f=null;for(let a=n,p=n+i;a<p;a++){let d;d=kt(l,t,e,a,null,r,o),d&&d.distance<u&&(f=d,u=d.distance)}return f}function $i(s,t,e,n,i,r,o){let{geometry:l}=e,{index:c}=l,u=l.attributes.position;for(let f=s,a=t+s;f<a;f++){let p;if(p=f,U(o,p*3,c,u),o.needsUpdate=!0,n(o,p,i,r))return!0}return!1}function ji(s,t=null){t&&Array.isArray(t)&&(t=new Set(t));let e=s.geometry,n=e.index?e.index.array:null,i=e.attributes.position,r,o,l,c,u=0,f=s._roots;for(let p=0,d=f.length;p<d;p++)r=f[p],o=new Uint32Array(r),l=new Uint16Array(r),c=new Float32Array(r),a(0,u),u+=r.byteLength;function a(p,d,h=!1){let g=p*2;if(F(g,l)){let v=O(p,o),T=z(g,l),m=1/0,y=1/0,x=1/0,b=-1/0,S=-1/0,w=-1/0;for(let _=3*v,I=3*(v+T);_<I;_++){let B=n[_],P=i.getX(B),A=i.getY(B),E=i.getZ(B);P<m&&(m=P),P>b&&(b=P),A<y&&(y=A),A>S&&(S=A),E<x&&(x=E),E>w&&(w=E)}return c[p+0]!==m||c[p+1]!==y||c[p+2]!==x||c[p+3]!==b||c[p+4]!==S||c[p+5]!==w?(c[p+0]=m,c[p+1]=y,c[p+2]=x,c[p+3]=b,c[p+4]=S,c[p+5]=w,!0):!1}else{let v=C(p),T=L(p,o),m=h,y=!1,x=!1;if(t){if(!m){let B=v/8+d/32,P=T/8+d/32;y=t.has(B),x=t.has(P),m=!y&&!x}}else y=!0,x=!0;let b=m||y,S=m||x,w=!1;b&&(w=a(v,d,m));let _=!1;S&&(_=a(T,d,m));let I=w||_;if(I)for(let B=0;B<3;B++){let P=v+B,A=T+B,E=c[P],M=c[P+3],D=c[A],V=c[A+3];c[p+B]=E<D?E:D,c[p+B+3]=M>V?M:V}return I}}}function G(s,t,e,n,i){let r,o,l,c,u,f,a=1/e.direction.x,p=1/e.direction.y,d=1/e.direction.z,h=e.origin.x,g=e.origin.y,v=e.origin.z,T=t[s],m=t[s+3],y=t[s+1],x=t[s+3+1],b=t[s+2],S=t[s+3+2];return a>=0?(r=(T-h)*a,o=(m-h)*a):(r=(m-h)*a,o=(T-h)*a),p>=0?(l=(y-g)*p,c=(x-g)*p):(l=(x-g)*p,c=(y-g)*p),r>c||l>o||((l>r||isNaN(r))&&(r=l),(c<o||isNaN(o))&&(o=c),d>=0?(u=(b-v)*d,f=(S-v)*d):(u=(S-v)*d,f=(b-v)*d),r>f||u>o)?!1:((u>r||r!==r)&&(r=u),(f<o||o!==o)&&(o=f),r<=i&&o>=n)}function Ji(s,t,e,n,i,r,o,l){let{geometry:c,_indirectBuffer:u}=s;for(let f=n,a=n+i;f<a;f++){let p=u?u[f]:f;kt(c,t,e,p,r,o,l)}}function Qi(s,t,e,n,i,r,o){let{geometry:l,_indirectBuffer:c}=s,u=1/0,f=null;for(let a=n,p=n+i;a<p;a++){let d;d=kt(l,t,e,c?c[a]:a,null,r,o),d&&d.distance<u&&(f=d,u=d.distance)}return f}function ts(s,t,e,n,i,r,o){let{geometry:l}=e,{index:c}=l,u=l.attributes.position;for(let f=s,a=t+s;f<a;f++){let p;if(p=e.resolveTriangleIndex(f),U(o,p*3,c,u),o.needsUpdate=!0,n(o,p,i,r))return!0}return!1}function es(s,t,e,n,i,r,o){N.setBuffer(s._roots[t]),G(0,N.float32Array,n,r,o)&&Dn(0,s,e,n,i,r,o),N.clearBuffer()}function Dn(s,t,e,n,i,r,o){let{float32Array:l,uint16Array:c,uint32Array:u}=N,f=s*2;if(F(f,c)){let p=O(s,u),d=z(f,c);Zi(t,e,n,p,d,i,r,o)}else{let p=C(s);G(p,l,n,r,o)&&Dn(p,t,e,n,i,r,o);let d=L(s,u);G(d,l,n,r,o)&&Dn(d,t,e,n,i,r,o)}}var Wo=["x","y","z"];function ns(s,t,e,n,i,r){N.setBuffer(s._roots[t]);let o=null;return G(0,N.float32Array,n,i,r)&&(o=Nn(0,s,e,n,i,r)),N.clearBuffer(),o}function Nn(s,t,e,n,i,r){let{float32Array:o,uint16Array:l,uint32Array:c}=N,u=s*2;if(F(u,l)){let a=O(s,c),p=z(u,l);return Ki(t,e,n,a,p,i,r)}else{let a=ht(s,c),p=Wo[a],h=n.direction[p]>=0,g,v;h?(g=C(s),v=L(s,c)):(g=L(s,c),v=C(s));let m=G(g,o,n,i,r)?Nn(g,t,e,n,i,r):null;if(m){let b=m.point[p];if(h?b<=o[v+a]:b>=o[v+a+3])return m}let x=G(v,o,n,i,r)?Nn(v,t,e,n,i,r):null;return m&&x?m.distance<=x.distance?m:x:m||x||null}}import{Box3 as Xo,Matrix4 as Go}from"three";var Ue=new Xo,Wt=new q,Xt=new q,fe=new Go,is=new H,He=new H;function ss(s,t,e,n){N.setBuffer(s._roots[t]);let i=Fn(0,s,e,n);return N.clearBuffer(),i}function Fn(s,t,e,n,i=null){let{float32Array:r,uint16Array:o,uint32Array:l}=N,c=s*2;if(i===null&&(e.boundingBox||e.computeBoundingBox(),is.set(e.boundingBox.min,e.boundingBox.max,n),i=is),F(c,o)){let f=t.geometry,a=f.index,p=f.attributes.position,d=e.index,h=e.attributes.position,g=O(s,l),v=z(c,o);if(fe.copy(n).invert(),e.boundsTree)return R(s,r,He),He.matrix.copy(fe),He.needsUpdate=!0,e.boundsTree.shapecast({intersectsBounds:m=>He.intersectsBox(m),intersectsTriangle:m=>{m.a.applyMatrix4(n),m.b.applyMatrix4(n),m.c.applyMatrix4(n),m.needsUpdate=!0;for(let y=g*3,x=(v+g)*3;y<x;y+=3)if(U(Xt,y,a,p),Xt.needsUpdate=!0,m.intersectsTriangle(Xt))return!0;return!1}});{let T=vt(e);for(let m=g*3,y=(v+g)*3;m<y;m+=3){U(Wt,m,a,p),Wt.a.applyMatrix4(fe),Wt.b.applyMatrix4(fe),Wt.c.applyMatrix4(fe),Wt.needsUpdate=!0;for(let x=0,b=T*3;x<b;x+=3)if(U(Xt,x,d,h),Xt.needsUpdate=!0,Wt.intersectsTriangle(Xt))return!0}}}else{let f=C(s),a=L(s,l);return R(f,r,Ue),!!(i.intersectsBox(Ue)&&Fn(f,t,e,n,i)||(R(a,r,Ue),i.intersectsBox(Ue)&&Fn(a,t,e,n,i)))}}import{Matrix4 as Yo,Vector3 as qe}from"three";var ke=new Yo,Rn=new H,pe=new H,Zo=new qe,Ko=new qe,$o=new qe,jo=new qe;function os(s,t,e,n={},i={},r=0,o=1/0){t.boundingBox||t.computeBoundingBox(),Rn.set(t.boundingBox.min,t.boundingBox.max,e),Rn.needsUpdate=!0;let l=s.geometry,c=l.attributes.position,u=l.index,f=t.attributes.position,a=t.index,p=Z.getPrimitive(),d=Z.getPrimitive(),h=Zo,g=Ko,v=null,T=null;i&&(v=$o,T=jo);let m=1/0,y=null,x=null;return ke.copy(e).invert(),pe.matrix.copy(ke),s.shapecast({boundsTraverseOrder:b=>Rn.distanceToBox(b),intersectsBounds:(b,S,w)=>w<m&&w<o?(S&&(pe.min.copy(b.min),pe.max.copy(b.max),pe.needsUpdate=!0),!0):!1,intersectsRange:(b,S)=>{if(t.boundsTree)return t.boundsTree.shapecast({boundsTraverseOrder:_=>pe.distanceToBox(_),intersectsBounds:(_,I,B)=>B<m&&B<o,intersectsRange:(_,I)=>{for(let B=_,P=_+I;B<P;B++){U(d,3*B,a,f),d.a.applyMatrix4(e),d.b.applyMatrix4(e),d.c.applyMatrix4(e),d.needsUpdate=!0;for(let A=b,E=b+S;A<E;A++){U(p,3*A,u,c),p.needsUpdate=!0;let M=p.distanceToTriangle(d,h,v);if(M<m&&(g.copy(h),T&&T.copy(v),m=M,y=A,x=B),M<r)return!0}}}});{let w=vt(t);for(let _=0,I=w;_<I;_++){U(d,3*_,a,f),d.a.applyMatrix4(e),d.b.applyMatrix4(e),d.c.applyMatrix4(e),d.needsUpdate=!0;for(let B=b,P=b+S;B<P;B++){U(p,3*B,u,c),p.needsUpdate=!0;let A=p.distanceToTriangle(d,h,v);if(A<m&&(g.copy(h),T&&T.copy(v),m=A,y=B,x=_),A<r)return!0}}}}}),Z.releasePrimitive(p),Z.releasePrimitive(d),m===1/0?null:(n.point?n.point.copy(g):n.point=g.clone(),n.distance=m,n.faceIndex=y,i&&(i.point?i.point.copy(T):i.point=T.clone(),i.point.applyMatrix4(ke),g.applyMatrix4(ke),i.distance=g.sub(i.point).length(),i.faceIndex=x),n)}function rs(s,t=null){t&&Array.isArray(t)&&(t=new Set(t));let e=s.geometry,n=e.index?e.index.array:null,i=e.attributes.position,r,o,l,c,u=0,f=s._roots;for(let p=0,d=f.length;p<d;p++)r=f[p],o=new Uint32Array(r),l=new Uint16Array(r),c=new Float32Array(r),a(0,u),u+=r.byteLength;function a(p,d,h=!1){let g=p*2;if(F(g,l)){let v=O(p,o),T=z(g,l),m=1/0,y=1/0,x=1/0,b=-1/0,S=-1/0,w=-1/0;for(let _=v,I=v+T;_<I;_++){let B=3*s.resolveTriangleIndex(_);for(let P=0;P<3;P++){let A=B+P;A=n?n[A]:A;let E=i.getX(A),M=i.getY(A),D=i.getZ(A);E<m&&(m=E),E>b&&(b=E),M<y&&(y=M),M>S&&(S=M),D<x&&(x=D),D>w&&(w=D)}}return c[p+0]!==m||c[p+1]!==y||c[p+2]!==x||c[p+3]!==b||c[p+4]!==S||c[p+5]!==w?(c[p+0]=m,c[p+1]=y,c[p+2]=x,c[p+3]=b,c[p+4]=S,c[p+5]=w,!0):!1}else{let v=C(p),T=L(p,o),m=h,y=!1,x=!1;if(t){if(!m){let B=v/8+d/32,P=T/8+d/32;y=t.has(B),x=t.has(P),m=!y&&!x}}else y=!0,x=!0;let b=m||y,S=m||x,w=!1;b&&(w=a(v,d,m));let _=!1;S&&(_=a(T,d,m));let I=w||_;if(I)for(let B=0;B<3;B++){let P=v+B,A=T+B,E=c[P],M=c[P+3],D=c[A],V=c[A+3];c[p+B]=E<D?E:D,c[p+B+3]=M>V?M:V}return I}}}function cs(s,t,e,n,i,r,o){N.setBuffer(s._roots[t]),G(0,N.float32Array,n,r,o)&&On(0,s,e,n,i,r,o),N.clearBuffer()}function On(s,t,e,n,i,r,o){let{float32Array:l,uint16Array:c,uint32Array:u}=N,f=s*2;if(F(f,c)){let p=O(s,u),d=z(f,c);Ji(t,e,n,p,d,i,r,o)}else{let p=C(s);G(p,l,n,r,o)&&On(p,t,e,n,i,r,o);let d=L(s,u);G(d,l,n,r,o)&&On(d,t,e,n,i,r,o)}}var Jo=["x","y","z"];function as(s,t,e,n,i,r){N.setBuffer(s._roots[t]);let o=null;return G(0,N.float32Array,n,i,r)&&(o=Cn(0,s,e,n,i,r)),N.clearBuffer(),o}function Cn(s,t,e,n,i,r){let{float32Array:o,uint16Array:l,uint32Array:c}=N,u=s*2;if(F(u,l)){let a=O(s,c),p=z(u,l);return Qi(t,e,n,a,p,i,r)}else{let a=ht(s,c),p=Jo[a],h=n.direction[p]>=0,g,v;h?(g=C(s),v=L(s,c)):(g=L(s,c),v=C(s));let m=G(g,o,n,i,r)?Cn(g,t,e,n,i,r):null;if(m){let b=m.point[p];if(h?b<=o[v+a]:b>=o[v+a+3])return m}let x=G(v,o,n,i,r)?Cn(v,t,e,n,i,r):null;return m&&x?m.distance<=x.distance?m:x:m||x||null}}import{Box3 as Qo,Matrix4 as tr}from"three";var We=new Qo,Gt=new q,Yt=new q,de=new tr,ls=new H,Xe=new H;function us(s,t,e,n){N.setBuffer(s._roots[t]);let i=Ln(0,s,e,n);return N.clearBuffer(),i}function Ln(s,t,e,n,i=null){let{float32Array:r,uint16Array:o,uint32Array:l}=N,c=s*2;if(i===null&&(e.boundingBox||e.computeBoundingBox(),ls.set(e.boundingBox.min,e.boundingBox.max,n),i=ls),F(c,o)){let f=t.geometry,a=f.index,p=f.attributes.position,d=e.index,h=e.attributes.position,g=O(s,l),v=z(c,o);if(de.copy(n).invert(),e.boundsTree)return R(s,r,Xe),Xe.matrix.copy(de),Xe.needsUpdate=!0,e.boundsTree.shapecast({intersectsBounds:m=>Xe.intersectsBox(m),intersectsTriangle:m=>{m.a.applyMatrix4(n),m.b.applyMatrix4(n),m.c.applyMatrix4(n),m.needsUpdate=!0;for(let y=g,x=v+g;y<x;y++)if(U(Yt,3*t.resolveTriangleIndex(y),a,p),Yt.needsUpdate=!0,m.intersectsTriangle(Yt))return!0;return!1}});{let T=vt(e);for(let m=g,y=v+g;m<y;m++){let x=t.resolveTriangleIndex(m);U(Gt,3*x,a,p),Gt.a.applyMatrix4(de),Gt.b.applyMatrix4(de),Gt.c.applyMatrix4(de),Gt.needsUpdate=!0;for(let b=0,S=T*3;b<S;b+=3)if(U(Yt,b,d,h),Yt.needsUpdate=!0,Gt.intersectsTriangle(Yt))return!0}}}else{let f=C(s),a=L(s,l);return R(f,r,We),!!(i.intersectsBox(We)&&Ln(f,t,e,n,i)||(R(a,r,We),i.intersectsBox(We)&&Ln(a,t,e,n,i)))}}import{Matrix4 as er,Vector3 as Ye}from"three";var Ge=new er,zn=new H,me=new H,nr=new Ye,ir=new Ye,sr=new Ye,or=new Ye;function fs(s,t,e,n={},i={},r=0,o=1/0){t.boundingBox||t.computeBoundingBox(),zn.set(t.boundingBox.min,t.boundingBox.max,e),zn.needsUpdate=!0;let l=s.geometry,c=l.attributes.position,u=l.index,f=t.attributes.position,a=t.index,p=Z.getPrimitive(),d=Z.getPrimitive(),h=nr,g=ir,v=null,T=null;i&&(v=sr,T=or);let m=1/0,y=null,x=null;return Ge.copy(e).invert(),me.matrix.copy(Ge),s.shapecast({boundsTraverseOrder:b=>zn.distanceToBox(b),intersectsBounds:(b,S,w)=>w<m&&w<o?(S&&(me.min.copy(b.min),me.max.copy(b.max),me.needsUpdate=!0),!0):!1,intersectsRange:(b,S)=>{if(t.boundsTree){let w=t.boundsTree;return w.shapecast({boundsTraverseOrder:_=>me.distanceToBox(_),intersectsBounds:(_,I,B)=>B<m&&B<o,intersectsRange:(_,I)=>{for(let B=_,P=_+I;B<P;B++){let A=w.resolveTriangleIndex(B);U(d,3*A,a,f),d.a.applyMatrix4(e),d.b.applyMatrix4(e),d.c.applyMatrix4(e),d.needsUpdate=!0;for(let E=b,M=b+S;E<M;E++){let D=s.resolveTriangleIndex(E);U(p,3*D,u,c),p.needsUpdate=!0;let V=p.distanceToTriangle(d,h,v);if(V<m&&(g.copy(h),T&&T.copy(v),m=V,y=E,x=B),V<r)return!0}}}})}else{let w=vt(t);for(let _=0,I=w;_<I;_++){U(d,3*_,a,f),d.a.applyMatrix4(e),d.b.applyMatrix4(e),d.c.applyMatrix4(e),d.needsUpdate=!0;for(let B=b,P=b+S;B<P;B++){let A=s.resolveTriangleIndex(B);U(p,3*A,u,c),p.needsUpdate=!0;let E=p.distanceToTriangle(d,h,v);if(E<m&&(g.copy(h),T&&T.copy(v),m=E,y=B,x=_),E<r)return!0}}}}}),Z.releasePrimitive(p),Z.releasePrimitive(d),m===1/0?null:(n.point?n.point.copy(g):n.point=g.clone(),n.distance=m,n.faceIndex=y,i&&(i.point?i.point.copy(T):i.point=T.clone(),i.point.applyMatrix4(Ge),g.applyMatrix4(Ge),i.distance=g.sub(i.point).length(),i.faceIndex=x),n)}function Vn(s,t,e){return s===null?null:(s.point.applyMatrix4(t.matrixWorld),s.distance=s.point.distanceTo(e.ray.origin),s.object=t,s)}var Ze=new H,Ke=new cr,ds=new ys,ms=new ar,hs=new ys,Un=["getX","getY","getZ"],bt=class s extends at{static serialize(t,e={}){e={cloneBuffers:!0,...e};let n=t.geometry,i=t._roots,r=t._indirectBuffer,o=n.getIndex(),l={version:1,roots:null,index:null,indirectBuffer:null};return e.cloneBuffers?(l.roots=i.map(c=>c.slice()),l.index=o?o.array.slice():null,l.indirectBuffer=r?r.slice():null):(l.roots=i,l.index=o?o.array:null,l.indirectBuffer=r),l}static deserialize(t,e,n={}){n={setIndex:!0,indirect:!!t.indirectBuffer,...n};let{index:i,roots:r,indirectBuffer:o}=t;t.version||(console.warn("MeshBVH.deserialize: Serialization format has been changed and will be fixed up. It is recommended to regenerate any stored serialized data."),c(r));let l=new s(e,{...n,[ut]:!0});if(l._roots=r,l._indirectBuffer=o||null,n.setIndex){let u=e.getIndex();if(u===null){let f=new rr(t.index,1,!1);e.setIndex(f)}else u.array!==i&&(u.array.set(i),u.needsUpdate=!0)}return l;function c(u){for(let f=0;f<u.length;f++){let a=u[f],p=new Uint32Array(a),d=new Uint16Array(a);for(let h=0,g=a.byteLength/32;h<g;h++){let v=8*h,T=2*v;F(T,d)||(p[v+6]=p[v+6]/8-h)}}}}get primitiveStride(){return 3}get resolveTriangleIndex(){return this.resolvePrimitiveIndex}constructor(t,e={}){e.maxLeafTris&&(console.warn('MeshBVH: "maxLeafTris" option has been deprecated. Use "targetLeafSize", instead.'),e={...e,targetLeafSize:e.maxLeafTris}),super(t,e)}shiftTriangleOffsets(t){return super.shiftPrimitiveOffsets(t)}writePrimitiveBounds(t,e,n){let i=this.geometry,r=this._indirectBuffer,o=i.attributes.position,l=i.index?i.index.array:null,u=(r?r[t]:t)*3,f=u+0,a=u+1,p=u+2;l&&(f=l[f],a=l[a],p=l[p]);for(let d=0;d<3;d++){let h=o[Un[d]](f),g=o[Un[d]](a),v=o[Un[d]](p),T=h;g<T&&(T=g),v<T&&(T=v);let m=h;g>m&&(m=g),v>m&&(m=v),e[n+d]=T,e[n+d+3]=m}return e}computePrimitiveBounds(t,e,n){let i=this.geometry,r=this._indirectBuffer,o=i.attributes.position,l=i.index?i.index.array:null,c=o.normalized;if(t<0||e+t-n.offset>n.length/6)throw new Error("MeshBVH: compute triangle bounds range is invalid.");let u=o.array,f=o.offset||0,a=3;o.isInterleavedBufferAttribute&&(a=o.data.stride);let p=["getX","getY","getZ"],d=n.offset;for(let h=t,g=t+e;h<g;h++){let T=(r?r[h]:h)*3,m=(h-d)*6,y=T+0,x=T+1,b=T+2;l&&(y=l[y],x=l[x],b=l[b]),c||(y=y*a+f,x=x*a+f,b=b*a+f);for(let S=0;S<3;S++){let w,_,I;c?(w=o[p[S]](y),_=o[p[S]](x),I=o[p[S]](b)):(w=u[y+S],_=u[x+S],I=u[b+S]);let B=w;_<B&&(B=_),I<B&&(B=I);let P=w;_>P&&(P=_),I>P&&(P=I);let A=(P-B)/2,E=S*2;n[m+E+0]=B+A,n[m+E+1]=A+(Math.abs(B)+A)*Nt}}return n}raycastObject3D(t,e,n=[]){let{material:i}=t;if(i===void 0)return;ms.copy(t.matrixWorld).invert(),Ke.copy(e.ray).applyMatrix4(ms),hs.setFromMatrixScale(t.matrixWorld),ds.copy(Ke.direction).multiply(hs);let r=ds.length(),o=e.near/r,l=e.far/r;if(e.firstHitOnly===!0){let c=this.raycastFirst(Ke,i,o,l);c=Vn(c,t,e),c&&n.push(c)}else{let c=this.raycast(Ke,i,o,l);for(let u=0,f=c.length;u<f;u++){let a=Vn(c[u],t,e);a&&n.push(a)}}return n}refit(t=null){return(this.indirect?rs:ji)(this,t)}raycast(t,e=ps,n=0,i=1/0){let r=this._roots,o=[],l=this.indirect?cs:es;for(let c=0,u=r.length;c<u;c++)l(this,c,e,t,o,n,i);return o}raycastFirst(t,e=ps,n=0,i=1/0){let r=this._roots,o=null,l=this.indirect?as:ns;for(let c=0,u=r.length;c<u;c++){let f=l(this,c,e,t,n,i);f!=null&&(o==null||f.distance<o.distance)&&(o=f)}return o}intersectsGeometry(t,e){let n=!1,i=this._roots,r=this.indirect?us:ss;for(let o=0,l=i.length;o<l&&(n=r(this,o,t,e),!n);o++);return n}shapecast(t){let e=Z.getPrimitive(),n=super.shapecast({...t,intersectsPrimitive:t.intersectsTriangle,scratchPrimitive:e,iterate:this.indirect?ts:$i});return Z.releasePrimitive(e),n}bvhcast(t,e,n){let{intersectsRanges:i,intersectsTriangles:r}=n,o=Z.getPrimitive(),l=this.geometry.index,c=this.geometry.attributes.position,u=this.indirect?h=>{let g=this.resolveTriangleIndex(h);U(o,g*3,l,c)}:h=>{U(o,h*3,l,c)},f=Z.getPrimitive(),a=t.geometry.index,p=t.geometry.attributes.position,d=t.indirect?h=>{let g=t.resolveTriangleIndex(h);U(f,g*3,a,p)}:h=>{U(f,h*3,a,p)};if(r){if(!(t instanceof s))throw new Error('MeshBVH: "intersectsTriangles" callback can only be used with another MeshBVH.');let h=(g,v,T,m,y,x,b,S)=>{for(let w=T,_=T+m;w<_;w++){d(w),f.a.applyMatrix4(e),f.b.applyMatrix4(e),f.c.applyMatrix4(e),f.needsUpdate=!0;for(let I=g,B=g+v;I<B;I++)if(u(I),o.needsUpdate=!0,r(o,f,I,w,y,x,b,S))return!0}return!1};if(i){let g=i;i=function(v,T,m,y,x,b,S,w){return g(v,T,m,y,x,b,S,w)?!0:h(v,T,m,y,x,b,S,w)}}else i=h}return super.bvhcast(t,e,{intersectsRanges:i})}intersectsBox(t,e){return Ze.set(t.min,t.max,e),Ze.needsUpdate=!0,this.shapecast({intersectsBounds:n=>Ze.intersectsBox(n),intersectsTriangle:n=>Ze.intersectsTriangle(n)})}intersectsSphere(t){return this.shapecast({intersectsBounds:e=>t.intersectsBox(e),intersectsTriangle:e=>e.intersectsSphere(t)})}closestPointToGeometry(t,e,n={},i={},r=0,o=1/0){return(this.indirect?fs:os)(this,t,e,n,i,r,o)}closestPointToPoint(t,e={},n=0,i=1/0){return zi(this,t,e,n,i)}};import{Matrix4 as lr,Line3 as ur,Vector3 as Xn,Ray as fr,Box3 as pr}from"three";var xs=new lr,Zt=new fr,gs=new j(()=>new ur),Hn=new Xn,vs=new Xn,$e=new pr,kn=new Xn,Ts=["getX","getY","getZ"],qn=class extends at{get primitiveStride(){return 2}writePrimitiveBounds(t,e,n){let i=this._indirectBuffer,{geometry:r,primitiveStride:o}=this,l=r.attributes.position,c=r.index,u=c?c.count:l.count,a=(i?i[t]:t)*o,p=(a+1)%u;c&&(a=c.getX(a),p=c.getX(p));for(let d=0;d<3;d++){let h=l[Ts[d]](a),g=l[Ts[d]](p),v=h<g?h:g,T=h>g?h:g;e[n+d]=v,e[n+d+3]=T}return e}shapecast(t){let e=gs.getPrimitive(),n=super.shapecast({...t,intersectsPrimitive:t.intersectsLine,scratchPrimitive:e,iterate:dr});return gs.releasePrimitive(e),n}raycastObject3D(t,e,n=[]){let{matrixWorld:i}=t,{firstHitOnly:r}=e;xs.copy(i).invert(),Zt.copy(e.ray).applyMatrix4(xs);let l=e.params.Line.threshold/((t.scale.x+t.scale.y+t.scale.z)/3),c=l*l,u=null,f=1/0;return this.shapecast({boundsTraverseOrder:a=>a.distanceToPoint(Zt.origin),intersectsBounds:a=>{if($e.copy(a).expandByScalar(l),r){if(!Zt.intersectBox($e,kn))return 0;let p;return $e.containsPoint(Zt.origin)?p=0:(kn.applyMatrix4(i),p=e.ray.origin.distanceTo(kn)),p<f?1:0}else return Zt.intersectsBox($e)?1:0},intersectsLine:(a,p)=>{if(Zt.distanceSqToSegment(a.start,a.end,Hn,vs)>c)return;Hn.applyMatrix4(t.matrixWorld);let h=e.ray.origin.distanceTo(Hn);h<e.near||h>e.far||r&&h>=f||(f=h,p=this.resolvePrimitiveIndex(p),u={distance:h,point:vs.clone().applyMatrix4(i),index:p*this.primitiveStride,face:null,faceIndex:null,barycoord:null,object:t},r||n.push(u))}}),r&&u&&n.push(u),n}},Wn=class extends qn{get primitiveStride(){return 1}constructor(t,e={}){e={...e,indirect:!0},super(t,e)}},bs=class extends Wn{getRootRanges(...t){let e=super.getRootRanges(...t);return e.forEach(n=>n.count--),e}};function dr(s,t,e,n,i,r,o){let{geometry:l,primitiveStride:c}=e,{index:u}=l,f=l.attributes.position,a=u?u.count:f.count;for(let p=s,d=t+s;p<d;p++){let g=e.resolvePrimitiveIndex(p)*c,v=(g+1)%a;if(u&&(g=u.getX(g),v=u.getX(v)),o.start.fromBufferAttribute(f,g),o.end.fromBufferAttribute(f,v),n(o,p,i,r))return!0}return!1}import{Vector3 as Yn,Matrix4 as mr,Ray as hr,Box3 as yr}from"three";var ws=new mr,St=new hr,As=new j(()=>new Yn),je=new yr,Gn=new Yn,Bs=class extends at{get primitiveStride(){return 1}writePrimitiveBounds(t,e,n){let i=this._indirectBuffer,{geometry:r}=this,o=r.attributes.position,l=r.index,c=i?i[t]:t;l&&(c=l.getX(c));let u=o.getX(c),f=o.getY(c),a=o.getZ(c);return e[n+0]=u,e[n+1]=f,e[n+2]=a,e[n+3]=u,e[n+4]=f,e[n+5]=a,e}shapecast(t){let e=As.getPrimitive(),n=super.shapecast({...t,intersectsPrimitive:t.intersectsPoint,scratchPrimitive:e,iterate:xr});return As.releasePrimitive(e),n}raycastObject3D(t,e,n=[]){let{geometry:i}=this,{matrixWorld:r}=t,{firstHitOnly:o}=e;ws.copy(r).invert(),St.copy(e.ray).applyMatrix4(ws);let c=e.params.Points.threshold/((t.scale.x+t.scale.y+t.scale.z)/3),u=c*c,f=null,a=1/0;return this.shapecast({boundsTraverseOrder:p=>p.distanceToPoint(St.origin),intersectsBounds:p=>{if(je.copy(p).expandByScalar(c),o){if(!St.intersectBox(je,Gn))return 0;let d;return je.containsPoint(St.origin)?d=0:(Gn.applyMatrix4(r),d=e.ray.origin.distanceTo(Gn)),d<a?1:0}else return St.intersectsBox(je)?1:0},intersectsPoint:(p,d)=>{let h=St.distanceSqToPoint(p);if(h<u){let g=new Yn;St.closestPointToPoint(p,g),g.applyMatrix4(r);let v=e.ray.origin.distanceTo(g);if(v<e.near||v>e.far||o&&v>=a)return;a=v,d=this.resolvePrimitiveIndex(d),f={distance:v,distanceToRay:Math.sqrt(h),point:g,index:i.index?i.index.getX(d):d,face:null,faceIndex:null,barycoord:null,object:t},o||n.push(f)}}}),o&&f&&n.push(f),n}};function xr(s,t,e,n,i,r,o){let{geometry:l}=e,{index:c}=l,u=l.attributes.position;for(let f=s,a=t+s;f<a;f++){let p=e.resolvePrimitiveIndex(f),d=c?c.array[p]:p;if(o.fromBufferAttribute(u,d),n(o,f,i,r))return!0}return!1}import{Box3 as gr,BufferGeometry as vr,Matrix4 as jn,Mesh as Tr,Vector3 as br,Ray as wr,Sphere as Ar}from"three";var Q=new vr,W=new jn,he=new jn,_s=new gr,Kt=new Ar,pt=new br,ye=new wr,tt=new Tr,Ss={},Is=class extends Ut{constructor(t,e={}){e={precise:!1,includeInstances:!0,matrixWorld:Array.isArray(t)?new jn:t.matrixWorld,targetLeafSize:1,...e},super();let n=new Set;Es(t,n);let i=Array.from(n),r=Math.ceil(Math.log2(i.length)),o=(1<<r)-1;this.objects=i,this.idBits=r,this.idMask=o,this.primitiveBuffer=null,this.primitiveBufferStride=1,this.precise=e.precise,this.includeInstances=e.includeInstances,this.matrixWorld=e.matrixWorld,this.init(e)}getObjectFromId(t){let{idMask:e,objects:n}=this,i=Kn(t,e);return n[i]}getInstanceFromId(t){let{idMask:e,idBits:n}=this;return $n(t,n,e)}init(t){let{objects:e,idBits:n,matrixWorld:i}=this;he.copy(i).invert(),this.primitiveBuffer=new Uint32Array(this._countPrimitives(e)),this._fillPrimitiveBuffer(e,n,this.primitiveBuffer),super.init(t)}refit(...t){he.copy(this.matrixWorld).invert(),super.refit(...t)}writePrimitiveBounds(t,e,n){let{primitiveBuffer:i}=this;this._getPrimitiveBoundingBox(i[t],he,_s);let{min:r,max:o}=_s;e[n+0]=r.x,e[n+1]=r.y,e[n+2]=r.z,e[n+3]=o.x,e[n+4]=o.y,e[n+5]=o.z}getRootRanges(){return[{offset:0,count:this.primitiveBuffer.length}]}shapecast(t){return super.shapecast({...t,intersectsPrimitive:t.intersectsObject,scratchPrimitive:null,iterate:Br})}raycast(t,e=[]){let{matrixWorld:n,includeInstances:i}=this,{firstHitOnly:r}=t,o=[];he.copy(n).invert(),ye.copy(t.ray).applyMatrix4(he);let l=1/0,c=null;return this.shapecast({boundsTraverseOrder:u=>u.distanceToPoint(ye.origin),intersectsBounds:u=>{if(r){if(!ye.intersectBox(u,pt))return 0;let f;return u.containsPoint(ye.origin)?f=0:(pt.applyMatrix4(n),f=t.ray.origin.distanceTo(pt)),f<l?1:0}else return ye.intersectsBox(u)?1:0},intersectsObject(u,f){if(u.visible){if(o.length=0,u.isInstancedMesh&&i)tt.geometry=u.geometry,tt.material=u.material,u.getMatrixAt(f,tt.matrixWorld),tt.matrixWorld.premultiply(u.matrixWorld),tt.raycast(t,o),o.forEach(a=>{a.object=u,a.instanceId=f}),tt.material=null;else if(u.isBatchedMesh&&i){if(!u.getVisibleAt(f))return;let a=u.getGeometryIdAt(f),p=u.getGeometryRangeAt(a,Ss);Q.index=u.geometry.index,Q.attributes=u.geometry.attributes,Q.setDrawRange(p.start,p.count),tt.geometry=Q,tt.material=u.material,u.getMatrixAt(f,tt.matrixWorld),tt.matrixWorld.premultiply(u.matrixWorld),tt.raycast(t,o),o.forEach(d=>{d.object=u,d.batchId=f}),tt.material=null,Q.index=null,Q.attributes=null,Q.setDrawRange(0,1/0)}else u.raycast(t,o);r?o.forEach(a=>{a.distance<l&&(l=a.distance,c=a)}):e.push(...o)}}}),r&&c&&e.push(c),e}_getPrimitiveBoundingBox(t,e,n){let{objects:i,idMask:r,idBits:o,precise:l,includeInstances:c}=this,u=Kn(t,r),f=$n(t,o,r),a=i[u];if(!c&&(a.isInstancedMesh||a.isBatchedMesh))a.boundingBox||a.computeBoundingBox(),a.boundingSphere||a.computeBoundingSphere(),W.copy(a.matrixWorld).premultiply(e),Kt.copy(a.boundingSphere).applyMatrix4(W),n.copy(a.boundingBox).applyMatrix4(W),Zn(n,Kt);else if(l)if(a.isInstancedMesh)a.getMatrixAt(f,W),W.premultiply(a.matrixWorld).premultiply(e),Ps(a.geometry,W,n);else if(a.isBatchedMesh){let p=a.getGeometryIdAt(f),d=a.getGeometryRangeAt(p,Ss);Q.index=a.geometry.index,Q.attributes=a.geometry.attributes,Q.setDrawRange(d.start,d.count),a.getMatrixAt(f,W),W.premultiply(a.matrixWorld).premultiply(e),Ps(Q,W,n),Q.attributes=null}else W.copy(a.matrixWorld).premultiply(e),n.setFromObject(a,!0).applyMatrix4(e);else if(a.isInstancedMesh)a.geometry.boundingBox||a.geometry.computeBoundingBox(),a.geometry.boundingSphere||a.geometry.computeBoundingSphere(),a.getMatrixAt(f,W),W.premultiply(a.matrixWorld).premultiply(e),Kt.copy(a.geometry.boundingSphere).applyMatrix4(W),n.copy(a.geometry.boundingBox).applyMatrix4(W),Zn(n,Kt);else if(a.isBatchedMesh){let p=a.getGeometryIdAt(f);a.getMatrixAt(f,W),W.premultiply(a.matrixWorld).premultiply(e),a.getBoundingSphereAt(p,Kt).applyMatrix4(W),a.getBoundingBoxAt(p,n).applyMatrix4(W),Zn(n,Kt)}else n.setFromObject(a,!1).applyMatrix4(e)}_countPrimitives(t){let{includeInstances:e}=this,n=0;return t.forEach(i=>{if(i.isInstancedMesh&&e)n+=i.count;else if(i.isBatchedMesh&&e){if(!("instanceCount"in i))throw new Error("ObjectBVH: Three.js revision >= r169 is required to use BatchedMesh.");n+=i.instanceCount}else n++}),n}_fillPrimitiveBuffer(t,e,n){let{includeInstances:i}=this,r=0;t.forEach((o,l)=>{if(o.isInstancedMesh&&i){let c=o.count;for(let u=0;u<c;u++)n[r]=u<<e|l,r++}else if(o.isBatchedMesh&&i){let{instanceCount:c,maxInstanceCount:u}=o,f=0,a=0;for(;f<c&&a<u;){try{o.getVisibleAt(a),n[r]=a<<e|l,f++,r++}catch{}a++}}else n[r]=l,r++})}};function Kn(s,t){return s&t}function $n(s,t,e){return(s&~e)>>>t}function Es(s,t=new Set){Array.isArray(s)?s.forEach(e=>Es(e,t)):s.traverse(e=>{(e.isMesh||e.isLine||e.isPoints)&&t.add(e)})}function Ps(s,t,e){e.makeEmpty();let n=s.drawRange,i=s.index,r=s.attributes.position,o=n.start,l=i?i.count:r.count,c=Math.min(l-o,n.count);for(let u=o,f=o+c;u<f;u++){let a=u;i&&(a=i.getX(a)),pt.fromBufferAttribute(r,a).applyMatrix4(t),e.expandByPoint(pt)}return e}function Br(s,t,e,n,i,r){let{primitiveBuffer:o,objects:l,idMask:c,idBits:u}=e;for(let f=s,a=t+s;f<a;f++){let p=o[f],d=Kn(p,c),h=$n(p,u,c),g=l[d];if(n(g,h,i,r))return!0}return!1}function Zn(s,t){pt.copy(t.center).addScalar(-t.radius),s.min.max(pt),pt.copy(t.center).addScalar(t.radius),s.max.min(pt)}import{Vector3 as st,Vector2 as ge,Ray as _r,Matrix4 as Sr,FrontSide as Ir,BackSide as Pr,Triangle as xe,REVISION as zs}from"three";var Ms=new st,Ds=new st,Ns=new st,dt=new _r,Fs=new Sr,It=new st,Jn=new st,Er=["x","y","z"],Je=parseInt(zs)>=169,Mr=parseInt(zs)<=161,Qe=new ge,tn=new ge,en=new ge,Rs=new st,Os=new st,Cs=new st,Ls=class extends at{get primitiveStride(){return 3}constructor(t,e={}){if(!t.isMesh)throw new Error("SkinnedMeshBVH: First argument must be a Mesh.");super(t.geometry,{...e,[ut]:!0}),this.mesh=t,e[ut]||this.init(e)}writePrimitiveBounds(t,e,n){let{mesh:i,geometry:r}=this,o=this._indirectBuffer,l=r.index?r.index.array:null,u=(o?o[t]:t)*3,f=u+0,a=u+1,p=u+2;l&&(f=l[f],a=l[a],p=l[p]),i.getVertexPosition(f,Ms),i.getVertexPosition(a,Ds),i.getVertexPosition(p,Ns);for(let d=0;d<3;d++){let h=Er[d],g=Ms[h],v=Ds[h],T=Ns[h],m=g;v<m&&(m=v),T<m&&(m=T);let y=g;v>y&&(y=v),T>y&&(y=T),e[n+d]=m,e[n+d+3]=y}return e}shapecast(t){let e=new q;return super.shapecast({...t,intersectsPrimitive:t.intersectsTriangle,scratchPrimitive:e,iterate:Dr})}raycastObject3D(t,e,n=[]){let{material:i}=t;if(i===void 0)return;let{matrixWorld:r}=t,{firstHitOnly:o}=e;Fs.copy(r).invert(),dt.copy(e.ray).applyMatrix4(Fs);let l=null,c=1/0;return this.shapecast({boundsTraverseOrder:u=>u.distanceToPoint(dt.origin),intersectsBounds:u=>{if(o){if(!dt.intersectBox(u,Jn))return 0;let f;return u.containsPoint(dt.origin)?f=0:(Jn.applyMatrix4(r),f=e.ray.origin.distanceTo(Jn)),f<c?1:0}else return dt.intersectsBox(u)?1:0},intersectsTriangle:(u,f)=>{let a=null;if(i.side===Ir?a=dt.intersectTriangle(u.a,u.b,u.c,!0,It):i.side===Pr?a=dt.intersectTriangle(u.c,u.b,u.a,!0,It):a=dt.intersectTriangle(u.a,u.b,u.c,!1,It),!a)return;a=a.clone().applyMatrix4(r);let p=e.ray.origin.distanceTo(a);if(p>=e.near&&p<=e.far){if(o&&p>=c)return;let{geometry:d}=this,{index:h}=d,g=this.resolvePrimitiveIndex(f),v=g*3,T=v+0,m=v+1,y=v+2;h&&(T=h.array[T],m=h.array[m],y=h.array[y]);let x={distance:p,point:a.clone(),object:t,uv:null,uv1:null,normal:null,face:{a:T,b:m,c:y,normal:xe.getNormal(u.a,u.b,u.c,new st),materialIndex:0},faceIndex:g};if(Je){let _=new st;xe.getBarycoord(It,u.a,u.b,u.c,_),x.barycoord=_}let b=d.attributes.uv,S=d.attributes.uv1,w=d.attributes.normal;if(b){Qe.fromBufferAttribute(b,T),tn.fromBufferAttribute(b,m),en.fromBufferAttribute(b,y),x.uv=new ge;let _=xe.getInterpolation(It,u.a,u.b,u.c,Qe,tn,en,x.uv);Je||(x.uv=_)}if(S){Qe.fromBufferAttribute(S,T),tn.fromBufferAttribute(S,m),en.fromBufferAttribute(S,y),x.uv1=new ge;let _=xe.getInterpolation(It,u.a,u.b,u.c,Qe,tn,en,x.uv1);Je||(x.uv1=_),Mr&&(x.uv2=x.uv1)}if(w){Rs.fromBufferAttribute(w,T),Os.fromBufferAttribute(w,m),Cs.fromBufferAttribute(w,y),x.normal=new st;let _=xe.getInterpolation(It,u.a,u.b,u.c,Rs,Os,Cs,x.normal);x.normal.dot(dt.direction)>0&&x.normal.multiplyScalar(-1),Je||(x.normal=_)}c=x.distance,l=x,o||n.push(x)}}}),o&&l&&n.push(l),n}};function Dr(s,t,e,n,i,r,o){let{mesh:l,geometry:c}=e,u=c.index?c.index.array:null;for(let f=s,a=t+s;f<a;f++){let p=e.resolvePrimitiveIndex(f),d=3*p+0,h=3*p+1,g=3*p+2;if(u&&(d=u[d],h=u[h],g=u[g]),l.getVertexPosition(d,o.a),l.getVertexPosition(h,o.b),l.getVertexPosition(g,o.c),o.needsUpdate=!0,n(o,f,i,r))return!0}return!1}import{LineBasicMaterial as Nr,BufferAttribute as Vs,Box3 as Fr,Group as Rr,MeshBasicMaterial as Or,Object3D as Cr,BufferGeometry as Us,Mesh as Lr,Matrix4 as zr,Vector3 as Vr}from"three";var Hs=new Fr,ks=new zr,Qn=new Vr,ti=class extends Cr{get isMesh(){return!this.displayEdges}get isLineSegments(){return this.displayEdges}get isLine(){return this.displayEdges}getVertexPosition(...t){return Lr.prototype.getVertexPosition.call(this,...t)}constructor(t,e,n=10,i=0){super(),this.material=e,this.geometry=new Us,this.name="BVHRootHelper",this.depth=n,this.displayParents=!1,this.bvh=t,this.displayEdges=!0,this._group=i}raycast(){}intersectsFrustum(t){return t.intersectsObject(this)}update(){let t=this.bvh;this.geometry.dispose(),this.visible=!1,t&&(this.geometry=this.getGeometry(t),this.visible=!0)}getGeometry(t){let e=this._group,n=null;if(e!==-1)n=this.getBVHBoundPositions(t,e);else{let o=t._roots.map((u,f)=>this.getBVHBoundPositions(t,f)),l=o.reduce((u,f)=>u+f.length,0);n=new Float32Array(l);let c=0;o.forEach(u=>{n.set(u,c),c+=u.length})}let i=this.getBVHBoundIndices(n),r=new Us;return r.setIndex(new Vs(i,1,!1)),r.setAttribute("position",new Vs(n,3,!1)),r}getBVHBoundIndices(t){let e=t.length/24,n,i;this.displayEdges?i=new Uint8Array([0,4,1,5,2,6,3,7,0,2,1,3,4,6,5,7,0,1,2,3,4,5,6,7]):i=new Uint8Array([0,1,2,2,1,3,4,6,5,6,7,5,1,4,5,0,4,1,2,3,6,3,7,6,0,2,4,2,6,4,1,5,3,3,5,7]),t.length>65535?n=new Uint32Array(i.length*e):n=new Uint16Array(i.length*e);let r=i.length;for(let o=0;o<e;o++){let l=o*8,c=o*r;for(let u=0;u<r;u++)n[c+u]=l+i[u]}return n}getBVHBoundPositions(t,e=0,n=null){let i=this.depth-1,r=this.displayParents,o=0;t.traverse((u,f)=>{if(u>=i||f)return o++,!0;r&&o++},e);let l=0,c=new Float32Array(24*o);return t.traverse((u,f,a)=>{let p=u>=i||f;if(p||r){R(0,a,Hs);let{min:d,max:h}=Hs;for(let g=-1;g<=1;g+=2){let v=g<0?d.x:h.x;for(let T=-1;T<=1;T+=2){let m=T<0?d.y:h.y;for(let y=-1;y<=1;y+=2){let x=y<0?d.z:h.z;Qn.set(v,m,x),n&&Qn.applyMatrix4(n),Qn.toArray(c,l),l+=3}}}return p}},e),c}},ei=class s extends Rr{get color(){return this.edgeMaterial.color}get opacity(){return this.edgeMaterial.opacity}set opacity(t){this.edgeMaterial.opacity=t,this.meshMaterial.opacity=t}get objectIndex(){return console.warn('BVHHelper: "objectIndex" has been renamed "instanceId".'),this.instanceId}set objectIndex(t){console.warn('BVHHelper: "objectIndex" has been renamed "instanceId".'),this.instanceId=t}constructor(t=null,e=null,n=10){t instanceof bt&&(n=e||10,e=t,t=null),typeof e=="number"&&(n=e,e=null),super(),this.name="BVHHelper",this.depth=n,this.mesh=t,this.bvh=e,this.displayParents=!1,this.displayEdges=!0,this.instanceId=0,this._roots=[];let i=new Nr({color:65416,transparent:!0,opacity:.3,depthWrite:!1}),r=new Or({color:65416,transparent:!0,opacity:.3,depthWrite:!1});r.color=i.color,this.edgeMaterial=i,this.meshMaterial=r,this.update()}update(){let t=this.mesh,e=this.instanceId,n=this.bvh||t.boundsTree||t.geometry&&t.geometry.boundsTree||null;if(t&&t.isBatchedMesh&&t.boundsTrees&&!n&&e>=0){let r=t._drawInfo[e];r&&(n=t.boundsTrees[r.geometryIndex]||n)}let i=n?n._roots.length:0;for(;this._roots.length>i;){let r=this._roots.pop();r.geometry.dispose(),this.remove(r)}for(let r=0;r<i;r++){let{depth:o,edgeMaterial:l,meshMaterial:c,displayParents:u,displayEdges:f}=this;if(r>=this._roots.length){let p=new ti(n,l,o,r);this.add(p),this._roots.push(p)}let a=this._roots[r];a.bvh=n,a.depth=o,a.displayParents=u,a.displayEdges=f,a.material=f?l:c,a.update()}}updateMatrixWorld(...t){let e=this.mesh,n=this.parent,i=this.instanceId;e!==null&&(e.updateWorldMatrix(!0,!1),n?this.matrix.copy(n.matrixWorld).invert().multiply(e.matrixWorld):this.matrix.copy(e.matrixWorld),(e.isInstancedMesh||e.isBatchedMesh)&&i>=0&&(e.getMatrixAt(i,ks),this.matrix.multiply(ks)),this.matrix.decompose(this.position,this.quaternion,this.scale)),super.updateMatrixWorld(...t)}copy(t){this.depth=t.depth,this.mesh=t.mesh,this.bvh=t.bvh,this.opacity=t.opacity,this.color.copy(t.color)}clone(){return new s().copy(this)}dispose(){this.edgeMaterial.dispose(),this.meshMaterial.dispose();let t=this.children;for(let e=0,n=t.length;e<n;e++)t[e].geometry.dispose()}},qs=class extends ei{constructor(...t){console.warn("MeshBVHHelper: Class has been deprecated. Use BVHHelper instead."),super(...t)}};import{Box3 as ii}from"three";var ni=new ii,ve=new ii;function Ws(s){switch(typeof s){case"number":return 8;case"string":return s.length*2;case"boolean":return 4;default:return 0}}function Ur(s){return/(Uint|Int|Float)(8|16|32)Array/.test(s.constructor.name)}function Hr(s,t){let e={nodeCount:0,leafNodeCount:0,depth:{min:1/0,max:-1/0},primitives:{min:1/0,max:-1/0},splits:[0,0,0],surfaceAreaScore:0};return s.traverse((n,i,r,o,l)=>{let c=r[3]-r[0],u=r[4]-r[1],f=r[5]-r[2],a=2*(c*u+u*f+f*c);e.nodeCount++,i?(e.leafNodeCount++,e.depth.min=Math.min(n,e.depth.min),e.depth.max=Math.max(n,e.depth.max),e.primitives.min=Math.min(l,e.primitives.min),e.primitives.max=Math.max(l,e.primitives.max),e.surfaceAreaScore+=a*1.25*l):(e.splits[o]++,e.surfaceAreaScore+=a*1)},t),e.primitives.min===1/0&&(e.primitives.min=0,e.primitives.max=0),e.depth.min===1/0&&(e.depth.min=0,e.depth.max=0),e}function kr(s){return s._roots.map((t,e)=>Hr(s,e))}function qr(s){let t=new Set,e=[s],n=0;for(;e.length;){let i=e.pop();if(!t.has(i)){t.add(i);for(let r in i){if(!Object.hasOwn(i,r))continue;n+=Ws(r);let o=i[r];o&&(typeof o=="object"||typeof o=="function")?Ur(o)||Fe()&&o instanceof SharedArrayBuffer||o instanceof ArrayBuffer?n+=o.byteLength:e.push(o):n+=Ws(o)}}}return n}function Wr(s){let t=[],e=new Float32Array(6),n=!0;return s.traverse((i,r,o,l,c)=>{let u={depth:i,isLeaf:r,boundingData:o,offset:l,count:c};t[i]=u,R(0,o,ni);let f=t[i-1];if(r){s.writePrimitiveRangeBounds(l,c,e,0),ve.min.set(e[0],e[1],e[2]),ve.max.set(e[3],e[4],e[5]);let a=ni.containsBox(ve);console.assert(a,"Leaf bounds does not fully contain primitives."),n=n&&a}if(f){R(0,f.boundingData,ve);let a=ve.containsBox(ni);console.assert(a,"Parent bounds does not fully contain child."),n=n&&a}}),n}function Xr(s){let t=[];return s.traverse((e,n,i,r,o)=>{let l={bounds:R(0,i,new ii)};n?(l.count=o,l.offset=r):(l.left=null,l.right=null),t[e]=l;let c=t[e-1];c&&(c.left===null?c.left=l:c.right=l)}),t[0]}import{Mesh as si,Points as Xs,Line as Gs,LineLoop as Ys,LineSegments as Zs,Sphere as Gr,BatchedMesh as Yr,REVISION as Zr}from"three";var Kr=parseInt(Zr)>=166,$t={Mesh:si.prototype.raycast,Line:Gs.prototype.raycast,LineSegments:Zs.prototype.raycast,LineLoop:Ys.prototype.raycast,Points:Xs.prototype.raycast,BatchedMesh:Yr.prototype.raycast},X=new si,nn=[];function Lu(s,t){if(this.isBatchedMesh)$r.call(this,s,t);else{let{geometry:e}=this;if(e.boundsTree)e.boundsTree.raycastObject3D(this,s,t);else{let n;if(this instanceof si)n=$t.Mesh;else if(this instanceof Zs)n=$t.LineSegments;else if(this instanceof Ys)n=$t.LineLoop;else if(this instanceof Gs)n=$t.Line;else if(this instanceof Xs)n=$t.Points;else throw new Error("BVH: Fallback raycast function not found.");n.call(this,s,t)}}}function $r(s,t){if(this.boundsTrees){let e=this.boundsTrees,n=this._drawInfo||this._instanceInfo,i=this._drawRanges||this._geometryInfo,r=this.matrixWorld;X.material=this.material,X.geometry=this.geometry;let o=X.geometry.boundsTree,l=X.geometry.drawRange;X.geometry.boundingSphere===null&&(X.geometry.boundingSphere=new Gr);for(let c=0,u=n.length;c<u;c++){if(!this.getVisibleAt(c))continue;let f=n[c].geometryIndex;if(X.geometry.boundsTree=e[f],this.getMatrixAt(c,X.matrixWorld).premultiply(r),!X.geometry.boundsTree){this.getBoundingBoxAt(f,X.geometry.boundingBox),this.getBoundingSphereAt(f,X.geometry.boundingSphere);let a=i[f];X.geometry.setDrawRange(a.start,a.count)}X.raycast(s,nn);for(let a=0,p=nn.length;a<p;a++){let d=nn[a];d.object=this,d.batchId=c,t.push(d)}nn.length=0}X.geometry.boundsTree=o,X.geometry.drawRange=l,X.material=null,X.geometry=null}else $t.BatchedMesh.call(this,s,t)}function zu(s={}){let{type:t=bt}=s;return this.boundsTree=new t(this,s),this.boundsTree}function Vu(){this.boundsTree=null}function Uu(s=-1,t={}){if(!Kr)throw new Error("BatchedMesh: Three r166+ is required to compute bounds trees.");t={...t,range:null};let e=this._drawRanges||this._geometryInfo,n=this._geometryCount;this.boundsTrees||(this.boundsTrees=new Array(n).fill(null));let i=this.boundsTrees;for(;i.length<n;)i.push(null);if(s<0){for(let r=0;r<n;r++)t.range=e[r],i[r]=new bt(this.geometry,t);return i}else return s<e.length&&(t.range=e[s],i[s]=new bt(this.geometry,t)),i[s]||null}function Hu(s=-1){s<0?this.boundsTrees.fill(null):s<this.boundsTrees.length&&(this.boundsTrees[s]=null)}import{DataTexture as to,FloatType as rc,UnsignedIntType as cc,RGBAFormat as ac,RGIntegerFormat as lc,NearestFilter as ln,BufferAttribute as uc}from"three";import{DataTexture as jr,FloatType as sn,IntType as on,UnsignedIntType as rn,ByteType as Ks,UnsignedByteType as $s,ShortType as Jr,UnsignedShortType as Qr,RedFormat as tc,RGFormat as ec,RGBAFormat as oi,RedIntegerFormat as nc,RGIntegerFormat as ic,RGBAIntegerFormat as ri,NearestFilter as js}from"three";function sc(s){switch(s){case 1:return"R";case 2:return"RG";case 3:return"RGBA";case 4:return"RGBA"}throw new Error}function oc(s){switch(s){case 1:return tc;case 2:return ec;case 3:return oi;case 4:return oi}}function Js(s){switch(s){case 1:return nc;case 2:return ic;case 3:return ri;case 4:return ri}}var Te=class extends jr{constructor(){super(),this.minFilter=js,this.magFilter=js,this.generateMipmaps=!1,this.overrideItemSize=null,this._forcedType=null}updateFrom(t){let e=this.overrideItemSize,n=t.itemSize,i=t.count;if(e!==null){if(n*i%e!==0)throw new Error("VertexAttributeTexture: overrideItemSize must divide evenly into buffer length.");t.itemSize=e,t.count=i*n/e}let r=t.itemSize,o=t.count,l=t.normalized,c=t.array.constructor,u=c.BYTES_PER_ELEMENT,f=this._forcedType,a=r;if(f===null)switch(c){case Float32Array:f=sn;break;case Uint8Array:case Uint16Array:case Uint32Array:f=rn;break;case Int8Array:case Int16Array:case Int32Array:f=on;break}let p,d,h,g,v=sc(r);switch(f){case sn:h=1,d=oc(r),l&&u===1?(g=c,v+="8",c===Uint8Array?p=$s:(p=Ks,v+="_SNORM")):(g=Float32Array,v+="32F",p=sn);break;case on:v+=u*8+"I",h=l?Math.pow(2,c.BYTES_PER_ELEMENT*8-1):1,d=Js(r),u===1?(g=Int8Array,p=Ks):u===2?(g=Int16Array,p=Jr):(g=Int32Array,p=on);break;case rn:v+=u*8+"UI",h=l?Math.pow(2,c.BYTES_PER_ELEMENT*8-1):1,d=Js(r),u===1?(g=Uint8Array,p=$s):u===2?(g=Uint16Array,p=Qr):(g=Uint32Array,p=rn);break}a===3&&(d===oi||d===ri)&&(a=4);let T=Math.ceil(Math.sqrt(o))||1,m=a*T*T,y=new g(m),x=t.normalized;t.normalized=!1;for(let b=0;b<o;b++){let S=a*b;y[S]=t.getX(b)/h,r>=2&&(y[S+1]=t.getY(b)/h),r>=3&&(y[S+2]=t.getZ(b)/h,a===4&&(y[S+3]=1)),r>=4&&(y[S+3]=t.getW(b)/h)}t.normalized=x,this.internalFormat=v,this.format=d,this.type=p,this.image.width=T,this.image.height=T,this.image.data=y,this.needsUpdate=!0,this.dispose(),t.itemSize=n,t.count=i}},cn=class extends Te{constructor(){super(),this._forcedType=rn}},Qs=class extends Te{constructor(){super(),this._forcedType=on}},an=class extends Te{constructor(){super(),this._forcedType=sn}};var eo=class{constructor(){this.index=new cn,this.position=new an,this.bvhBounds=new to,this.bvhContents=new to,this._cachedIndexAttr=null,this.index.overrideItemSize=3}updateFrom(t){let{geometry:e}=t;if(pc(t,this.bvhBounds,this.bvhContents),this.position.updateFrom(e.attributes.position),t.indirect){let n=t._indirectBuffer;if(this._cachedIndexAttr===null||this._cachedIndexAttr.count!==n.length)if(e.index)this._cachedIndexAttr=e.index.clone();else{let i=In(ne(e));this._cachedIndexAttr=new uc(i,1,!1)}fc(e,n,this._cachedIndexAttr),this.index.updateFrom(this._cachedIndexAttr)}else this.index.updateFrom(e.index)}dispose(){let{index:t,position:e,bvhBounds:n,bvhContents:i}=this;t&&t.dispose(),e&&e.dispose(),n&&n.dispose(),i&&i.dispose()}};function fc(s,t,e){let n=e.array,i=s.index?s.index.array:null;for(let r=0,o=t.length;r<o;r++){let l=3*r,c=3*t[r];for(let u=0;u<3;u++)n[l+u]=i?i[c+u]:c+u}}function pc(s,t,e){let n=s._roots;if(n.length!==1)throw new Error("MeshBVHUniformStruct: Multi-root BVHs not supported.");let i=n[0],r=new Uint16Array(i),o=new Uint32Array(i),l=new Float32Array(i),c=i.byteLength/32,u=2*Math.ceil(Math.sqrt(c/2)),f=new Float32Array(4*u*u),a=Math.ceil(Math.sqrt(c)),p=new Uint32Array(2*a*a);for(let d=0;d<c;d++){let h=d*32/4,g=h*2,v=h;for(let T=0;T<3;T++)f[8*d+0+T]=l[v+0+T],f[8*d+4+T]=l[v+3+T];if(F(g,r)){let T=z(g,r),m=O(h,o),y=-65536|T;p[d*2+0]=y,p[d*2+1]=m}else{let T=o[h+6],m=ht(h,o);p[d*2+0]=m,p[d*2+1]=T}}t.image.data=f,t.image.width=u,t.image.height=u,t.format=ac,t.type=rc,t.internalFormat="RGBA32F",t.minFilter=ln,t.magFilter=ln,t.generateMipmaps=!1,t.needsUpdate=!0,t.dispose(),e.image.data=p,e.image.width=a,e.image.height=a,e.format=lc,e.type=cc,e.internalFormat="RG32UI",e.minFilter=ln,e.magFilter=ln,e.generateMipmaps=!1,e.needsUpdate=!0,e.dispose()}import{BufferAttribute as ui,BufferGeometry as pn,Vector3 as Ae,Vector4 as fi,Matrix4 as pi,Matrix3 as dc}from"three";var Pt=new Ae,Et=new Ae,Mt=new Ae,no=new fi,un=new Ae,ci=new Ae,io=new fi,so=new fi,fn=new pi,oo=new pi;function be(s,t){if(!s&&!t)return;let e=s.count===t.count,n=s.normalized===t.normalized,i=s.array.constructor===t.array.constructor,r=s.itemSize===t.itemSize;if(!e||!n||!i||!r)throw new Error}function we(s,t=null){let e=s.array.constructor,n=s.normalized,i=s.itemSize,r=t===null?s.count:t;return new ui(new e(i*r),i,n)}function ao(s,t,e=0){if(s.isInterleavedBufferAttribute){let n=s.itemSize;for(let i=0,r=s.count;i<r;i++){let o=i+e;t.setX(o,s.getX(i)),n>=2&&t.setY(o,s.getY(i)),n>=3&&t.setZ(o,s.getZ(i)),n>=4&&t.setW(o,s.getW(i))}}else{let n=t.array,i=n.constructor,r=n.BYTES_PER_ELEMENT*s.itemSize*e;new i(n.buffer,r,s.array.length).set(s.array)}}function mc(s,t,e){let n=s.elements,i=t.elements;for(let r=0,o=i.length;r<o;r++)n[r]+=i[r]*e}function ro(s,t,e){let n=s.skeleton,i=s.geometry,r=n.bones,o=n.boneInverses;io.fromBufferAttribute(i.attributes.skinIndex,t),so.fromBufferAttribute(i.attributes.skinWeight,t),fn.elements.fill(0);for(let l=0;l<4;l++){let c=so.getComponent(l);if(c!==0){let u=io.getComponent(l);oo.multiplyMatrices(r[u].matrixWorld,o[u]),mc(fn,oo,c)}}return fn.multiply(s.bindMatrix).premultiply(s.bindMatrixInverse),e.transformDirection(fn),e}function ai(s,t,e,n,i){un.set(0,0,0);for(let r=0,o=s.length;r<o;r++){let l=t[r],c=s[r];l!==0&&(ci.fromBufferAttribute(c,n),e?un.addScaledVector(ci,l):un.addScaledVector(ci.sub(i),l))}i.add(un)}function hc(s,t={useGroups:!1,updateIndex:!1,skipAttributes:[]},e=new pn){let n=s[0].index!==null,{useGroups:i=!1,updateIndex:r=!1,skipAttributes:o=[]}=t,l=new Set(Object.keys(s[0].attributes)),c={},u=0;e.clearGroups();for(let f=0;f<s.length;++f){let a=s[f],p=0;if(n!==(a.index!==null))throw new Error("StaticGeometryGenerator: All geometries must have compatible attributes; make sure index attribute exists among all geometries, or in none of them.");for(let d in a.attributes){if(!l.has(d))throw new Error('StaticGeometryGenerator: All geometries must have compatible attributes; make sure "'+d+'" attribute exists among all geometries, or in none of them.');c[d]===void 0&&(c[d]=[]),c[d].push(a.attributes[d]),p++}if(p!==l.size)throw new Error("StaticGeometryGenerator: Make sure all geometries have the same number of attributes.");if(i){let d;if(n)d=a.index.count;else if(a.attributes.position!==void 0)d=a.attributes.position.count;else throw new Error("StaticGeometryGenerator: The geometry must have either an index or a position attribute");e.addGroup(u,d,f),u+=d}}if(n){let f=!1;if(!e.index){let a=0;for(let p=0;p<s.length;++p)a+=s[p].index.count;e.setIndex(new ui(new Uint32Array(a),1,!1)),f=!0}if(r||f){let a=e.index,p=0,d=0;for(let h=0;h<s.length;++h){let g=s[h],v=g.index;if(o[h]!==!0)for(let T=0;T<v.count;++T)a.setX(p,v.getX(T)+d),p++;d+=g.attributes.position.count}}}for(let f in c){let a=c[f];if(!(f in e.attributes)){let h=0;for(let g in a)h+=a[g].count;e.setAttribute(f,we(c[f][0],h))}let p=e.attributes[f],d=0;for(let h=0,g=a.length;h<g;h++){let v=a[h];o[h]!==!0&&ao(v,p,d),d+=v.count}}return e}function yc(s,t){if(s===null||t===null)return s===t;if(s.length!==t.length)return!1;for(let e=0,n=s.length;e<n;e++)if(s[e]!==t[e])return!1;return!0}function xc(s){let{index:t,attributes:e}=s;if(t)for(let n=0,i=t.count;n<i;n+=3){let r=t.getX(n),o=t.getX(n+2);t.setX(n,o),t.setX(n+2,r)}else for(let n in e){let i=e[n],r=i.itemSize;for(let o=0,l=i.count;o<l;o+=3)for(let c=0;c<r;c++){let u=i.getComponent(o,c),f=i.getComponent(o+2,c);i.setComponent(o,c,f),i.setComponent(o+2,c,u)}}return s}var li=class{constructor(t){this.matrixWorld=new pi,this.geometryHash=null,this.boneMatrices=null,this.primitiveCount=-1,this.mesh=t,this.update()}update(){let t=this.mesh,e=t.geometry,n=t.skeleton,i=(e.index?e.index.count:e.attributes.position.count)/3;if(this.matrixWorld.copy(t.matrixWorld),this.geometryHash=e.attributes.position.version,this.primitiveCount=i,n){n.boneTexture||n.computeBoneTexture(),n.update();let r=n.boneMatrices;!this.boneMatrices||this.boneMatrices.length!==r.length?this.boneMatrices=r.slice():this.boneMatrices.set(r)}else this.boneMatrices=null}didChange(){let t=this.mesh,e=t.geometry,n=(e.index?e.index.count:e.attributes.position.count)/3;return!(this.matrixWorld.equals(t.matrixWorld)&&this.geometryHash===e.attributes.position.version&&yc(t.skeleton&&t.skeleton.boneMatrices||null,this.boneMatrices)&&this.primitiveCount===n)}},co=class{constructor(t){Array.isArray(t)||(t=[t]);let e=[];t.forEach(n=>{n.traverseVisible(i=>{i.isMesh&&e.push(i)})}),this.meshes=e,this.useGroups=!0,this.applyWorldTransforms=!0,this.attributes=["position","normal","color","tangent","uv","uv2"],this._intermediateGeometry=new Array(e.length).fill().map(()=>new pn),this._diffMap=new WeakMap}getMaterials(){let t=[];return this.meshes.forEach(e=>{Array.isArray(e.material)?t.push(...e.material):t.push(e.material)}),t}generate(t=new pn){let e=[],{meshes:n,useGroups:i,_intermediateGeometry:r,_diffMap:o}=this;for(let l=0,c=n.length;l<c;l++){let u=n[l],f=r[l],a=o.get(u);!a||a.didChange(u)?(this._convertToStaticGeometry(u,f),e.push(!1),a?a.update():o.set(u,new li(u))):e.push(!0)}if(r.length===0){t.setIndex(null);let l=t.attributes;for(let c in l)t.deleteAttribute(c);for(let c in this.attributes)t.setAttribute(this.attributes[c],new ui(new Float32Array(0),4,!1))}else hc(r,{useGroups:i,skipAttributes:e},t);for(let l in t.attributes)t.attributes[l].needsUpdate=!0;return t}_convertToStaticGeometry(t,e=new pn){let n=t.geometry,i=this.applyWorldTransforms,r=this.attributes.includes("normal"),o=this.attributes.includes("tangent"),l=n.attributes,c=e.attributes;!e.index&&n.index&&(e.index=n.index.clone()),c.position||e.setAttribute("position",we(l.position)),r&&!c.normal&&l.normal&&e.setAttribute("normal",we(l.normal)),o&&!c.tangent&&l.tangent&&e.setAttribute("tangent",we(l.tangent)),be(n.index,e.index),be(l.position,c.position),r&&be(l.normal,c.normal),o&&be(l.tangent,c.tangent);let u=l.position,f=r?l.normal:null,a=o?l.tangent:null,p=n.morphAttributes.position,d=n.morphAttributes.normal,h=n.morphAttributes.tangent,g=n.morphTargetsRelative,v=t.morphTargetInfluences,T=new dc;T.getNormalMatrix(t.matrixWorld),n.index&&e.index.array.set(n.index.array);for(let m=0,y=l.position.count;m<y;m++)Pt.fromBufferAttribute(u,m),f&&Et.fromBufferAttribute(f,m),a&&(no.fromBufferAttribute(a,m),Mt.fromBufferAttribute(a,m)),v&&(p&&ai(p,v,g,m,Pt),d&&ai(d,v,g,m,Et),h&&ai(h,v,g,m,Mt)),t.isSkinnedMesh&&(t.applyBoneTransform(m,Pt),f&&ro(t,m,Et),a&&ro(t,m,Mt)),i&&Pt.applyMatrix4(t.matrixWorld),c.position.setXYZ(m,Pt.x,Pt.y,Pt.z),f&&(i&&Et.applyNormalMatrix(T),c.normal.setXYZ(m,Et.x,Et.y,Et.z)),a&&(i&&Mt.transformDirection(t.matrixWorld),c.tangent.setXYZW(m,Mt.x,Mt.y,Mt.z,no.w));for(let m in this.attributes){let y=this.attributes[m];y==="position"||y==="tangent"||y==="normal"||!(y in l)||(c[y]||e.setAttribute(y,we(l[y])),be(l[y],c[y]),ao(l[y],c[y]))}return t.matrixWorld.determinant()<0&&xc(e),e}};var xi={};xo(xi,{bvh_distance_functions:()=>mi,bvh_ray_functions:()=>hi,bvh_struct_definitions:()=>yi,common_functions:()=>di});var di=`

// A stack of uint32 indices can can store the indices for
// a perfectly balanced tree with a depth up to 31. Lower stack
// depth gets higher performance.
//
// However not all trees are balanced. Best value to set this to
// is the trees max depth.
#ifndef BVH_STACK_DEPTH
#define BVH_STACK_DEPTH 60
#endif

#ifndef INFINITY
#define INFINITY 1e20
#endif

// Utilities
uvec4 uTexelFetch1D( usampler2D tex, uint index ) {

	uint width = uint( textureSize( tex, 0 ).x );
	uvec2 uv;
	uv.x = index % width;
	uv.y = index / width;

	return texelFetch( tex, ivec2( uv ), 0 );

}

ivec4 iTexelFetch1D( isampler2D tex, uint index ) {

	uint width = uint( textureSize( tex, 0 ).x );
	uvec2 uv;
	uv.x = index % width;
	uv.y = index / width;

	return texelFetch( tex, ivec2( uv ), 0 );

}

vec4 texelFetch1D( sampler2D tex, uint index ) {

	uint width = uint( textureSize( tex, 0 ).x );
	uvec2 uv;
	uv.x = index % width;
	uv.y = index / width;

	return texelFetch( tex, ivec2( uv ), 0 );

}

vec4 textureSampleBarycoord( sampler2D tex, vec3 barycoord, uvec3 faceIndices ) {

	return
		barycoord.x * texelFetch1D( tex, faceIndices.x ) +
		barycoord.y * texelFetch1D( tex, faceIndices.y ) +
		barycoord.z * texelFetch1D( tex, faceIndices.z );

}

void ndcToCameraRay(
	vec2 coord, mat4 cameraWorld, mat4 invProjectionMatrix,
	out vec3 rayOrigin, out vec3 rayDirection
) {

	// get camera look direction and near plane for camera clipping
	vec4 lookDirection = cameraWorld * vec4( 0.0, 0.0, - 1.0, 0.0 );
	vec4 nearVector = invProjectionMatrix * vec4( 0.0, 0.0, - 1.0, 1.0 );
	float near = abs( nearVector.z / nearVector.w );

	// get the camera direction and position from camera matrices
	vec4 origin = cameraWorld * vec4( 0.0, 0.0, 0.0, 1.0 );
	vec4 direction = invProjectionMatrix * vec4( coord, 0.5, 1.0 );
	direction /= direction.w;
	direction = cameraWorld * direction - origin;

	// slide the origin along the ray until it sits at the near clip plane position
	origin.xyz += direction.xyz * near / dot( direction, lookDirection );

	rayOrigin = origin.xyz;
	rayDirection = direction.xyz;

}
`;var mi=`

float dot2( vec3 v ) {

	return dot( v, v );

}

// implementation from https://www.shadertoy.com/view/ttfGWl, though method 2 has been removed
// and is now available at this fork: https://www.shadertoy.com/view/WlB3zW
vec3 closestPointToTriangle( vec3 p, vec3 v0, vec3 v1, vec3 v2, out vec3 barycoord ) {

    vec3 v10 = v1 - v0;
    vec3 v21 = v2 - v1;
    vec3 v02 = v0 - v2;

	vec3 p0 = p - v0;
	vec3 p1 = p - v1;
	vec3 p2 = p - v2;

    vec3 nor = cross( v10, v02 );

    // method 2, in barycentric space
    vec3  q = cross( nor, p0 );
    float d = 1.0 / dot2( nor );
    float u = d * dot( q, v02 );
    float v = d * dot( q, v10 );
    float w = 1.0 - u - v;

	if( u < 0.0 ) {

		w = clamp( dot( p2, v02 ) / dot2( v02 ), 0.0, 1.0 );
		u = 0.0;
		v = 1.0 - w;

	} else if( v < 0.0 ) {

		u = clamp( dot( p0, v10 ) / dot2( v10 ), 0.0, 1.0 );
		v = 0.0;
		w = 1.0 - u;

	} else if( w < 0.0 ) {

		v = clamp( dot( p1, v21 ) / dot2( v21 ), 0.0, 1.0 );
		w = 0.0;
		u = 1.0 - v;

	}

	// output the barycoord in v0, v1, v2 weight order
	barycoord = vec3( w, u, v );
    return u * v1 + v * v2 + w * v0;

}

float distanceToTriangles(
	// geometry info and triangle range
	sampler2D positionAttr, usampler2D indexAttr, uint offset, uint count,

	// point and cut off range
	vec3 point, float closestDistanceSquared,

	// outputs
	inout uvec4 faceIndices, inout vec3 faceNormal, inout vec3 barycoord, inout float side, inout vec3 outPoint
) {

	bool found = false;
	vec3 localBarycoord;
	for ( uint i = offset, l = offset + count; i < l; i ++ ) {

		uvec3 indices = uTexelFetch1D( indexAttr, i ).xyz;
		vec3 a = texelFetch1D( positionAttr, indices.x ).rgb;
		vec3 b = texelFetch1D( positionAttr, indices.y ).rgb;
		vec3 c = texelFetch1D( positionAttr, indices.z ).rgb;

		// get the closest point and barycoord
		vec3 closestPoint = closestPointToTriangle( point, a, b, c, localBarycoord );
		vec3 delta = point - closestPoint;
		float sqDist = dot2( delta );
		if ( sqDist < closestDistanceSquared ) {

			// set the output results
			closestDistanceSquared = sqDist;
			faceIndices = uvec4( indices.xyz, i );
			faceNormal = normalize( cross( a - b, b - c ) );
			barycoord = localBarycoord;
			outPoint = closestPoint;
			side = sign( dot( faceNormal, delta ) );

		}

	}

	return closestDistanceSquared;

}

float distanceSqToBounds( vec3 point, vec3 boundsMin, vec3 boundsMax ) {

	vec3 clampedPoint = clamp( point, boundsMin, boundsMax );
	vec3 delta = point - clampedPoint;
	return dot( delta, delta );

}

float distanceSqToBVHNodeBoundsPoint( vec3 point, sampler2D bvhBounds, uint currNodeIndex ) {

	uint cni2 = currNodeIndex * 2u;
	vec3 boundsMin = texelFetch1D( bvhBounds, cni2 ).xyz;
	vec3 boundsMax = texelFetch1D( bvhBounds, cni2 + 1u ).xyz;
	return distanceSqToBounds( point, boundsMin, boundsMax );

}

// use a macro to hide the fact that we need to expand the struct into separate fields
#define	bvhClosestPointToPoint(		bvh,		point, maxDistance, faceIndices, faceNormal, barycoord, side, outPoint	)	_bvhClosestPointToPoint(		bvh.position, bvh.index, bvh.bvhBounds, bvh.bvhContents,		point, maxDistance, faceIndices, faceNormal, barycoord, side, outPoint	)

float _bvhClosestPointToPoint(
	// bvh info
	sampler2D bvh_position, usampler2D bvh_index, sampler2D bvh_bvhBounds, usampler2D bvh_bvhContents,

	// point to check
	vec3 point, float maxDistance,

	// output variables
	inout uvec4 faceIndices, inout vec3 faceNormal, inout vec3 barycoord,
	inout float side, inout vec3 outPoint
 ) {

	// stack needs to be twice as long as the deepest tree we expect because
	// we push both the left and right child onto the stack every traversal
	int pointer = 0;
	uint stack[ BVH_STACK_DEPTH ];
	stack[ 0 ] = 0u;

	float closestDistanceSquared = maxDistance * maxDistance;
	bool found = false;
	while ( pointer > - 1 && pointer < BVH_STACK_DEPTH ) {

		uint currNodeIndex = stack[ pointer ];
		pointer --;

		// check if we intersect the current bounds
		float boundsHitDistance = distanceSqToBVHNodeBoundsPoint( point, bvh_bvhBounds, currNodeIndex );
		if ( boundsHitDistance > closestDistanceSquared ) {

			continue;

		}

		uvec2 boundsInfo = uTexelFetch1D( bvh_bvhContents, currNodeIndex ).xy;
		bool isLeaf = bool( boundsInfo.x & 0xffff0000u );
		if ( isLeaf ) {

			uint count = boundsInfo.x & 0x0000ffffu;
			uint offset = boundsInfo.y;
			closestDistanceSquared = distanceToTriangles(
				bvh_position, bvh_index, offset, count, point, closestDistanceSquared,

				// outputs
				faceIndices, faceNormal, barycoord, side, outPoint
			);

		} else {

			uint leftIndex = currNodeIndex + 1u;
			uint splitAxis = boundsInfo.x & 0x0000ffffu;
			uint rightIndex = currNodeIndex + boundsInfo.y;
			bool leftToRight = distanceSqToBVHNodeBoundsPoint( point, bvh_bvhBounds, leftIndex ) < distanceSqToBVHNodeBoundsPoint( point, bvh_bvhBounds, rightIndex );//rayDirection[ splitAxis ] >= 0.0;
			uint c1 = leftToRight ? leftIndex : rightIndex;
			uint c2 = leftToRight ? rightIndex : leftIndex;

			// set c2 in the stack so we traverse it later. We need to keep track of a pointer in
			// the stack while we traverse. The second pointer added is the one that will be
			// traversed first
			pointer ++;
			stack[ pointer ] = c2;
			pointer ++;
			stack[ pointer ] = c1;

		}

	}

	return sqrt( closestDistanceSquared );

}
`;var hi=`

#ifndef TRI_INTERSECT_EPSILON
#define TRI_INTERSECT_EPSILON 1e-5
#endif

// Raycasting
bool intersectsBounds( vec3 rayOrigin, vec3 rayDirection, vec3 boundsMin, vec3 boundsMax, out float dist ) {

	// https://www.reddit.com/r/opengl/comments/8ntzz5/fast_glsl_ray_box_intersection/
	// https://tavianator.com/2011/ray_box.html
	vec3 invDir = 1.0 / rayDirection;

	// find intersection distances for each plane
	vec3 tMinPlane = invDir * ( boundsMin - rayOrigin );
	vec3 tMaxPlane = invDir * ( boundsMax - rayOrigin );

	// get the min and max distances from each intersection
	vec3 tMinHit = min( tMaxPlane, tMinPlane );
	vec3 tMaxHit = max( tMaxPlane, tMinPlane );

	// get the furthest hit distance
	vec2 t = max( tMinHit.xx, tMinHit.yz );
	float t0 = max( t.x, t.y );

	// get the minimum hit distance
	t = min( tMaxHit.xx, tMaxHit.yz );
	float t1 = min( t.x, t.y );

	// set distance to 0.0 if the ray starts inside the box
	dist = max( t0, 0.0 );

	return t1 >= dist;

}

bool intersectsTriangle(
	vec3 rayOrigin, vec3 rayDirection, vec3 a, vec3 b, vec3 c,
	out vec3 barycoord, out vec3 norm, out float dist, out float side
) {

	// https://stackoverflow.com/questions/42740765/intersection-between-line-and-triangle-in-3d
	vec3 edge1 = b - a;
	vec3 edge2 = c - a;
	norm = cross( edge1, edge2 );

	float det = - dot( rayDirection, norm );
	float invdet = 1.0 / det;

	vec3 AO = rayOrigin - a;
	vec3 DAO = cross( AO, rayDirection );

	vec4 uvt;
	uvt.x = dot( edge2, DAO ) * invdet;
	uvt.y = - dot( edge1, DAO ) * invdet;
	uvt.z = dot( AO, norm ) * invdet;
	uvt.w = 1.0 - uvt.x - uvt.y;

	// set the hit information
	barycoord = uvt.wxy; // arranged in A, B, C order
	dist = uvt.z;
	side = sign( det );
	norm = side * normalize( norm );

	// add an epsilon to avoid misses between triangles
	uvt += vec4( TRI_INTERSECT_EPSILON );

	return all( greaterThanEqual( uvt, vec4( 0.0 ) ) );

}

bool intersectTriangles(
	// geometry info and triangle range
	sampler2D positionAttr, usampler2D indexAttr, uint offset, uint count,

	// ray
	vec3 rayOrigin, vec3 rayDirection,

	// outputs
	inout float minDistance, inout uvec4 faceIndices, inout vec3 faceNormal, inout vec3 barycoord,
	inout float side, inout float dist
) {

	bool found = false;
	vec3 localBarycoord, localNormal;
	float localDist, localSide;
	for ( uint i = offset, l = offset + count; i < l; i ++ ) {

		uvec3 indices = uTexelFetch1D( indexAttr, i ).xyz;
		vec3 a = texelFetch1D( positionAttr, indices.x ).rgb;
		vec3 b = texelFetch1D( positionAttr, indices.y ).rgb;
		vec3 c = texelFetch1D( positionAttr, indices.z ).rgb;

		if (
			intersectsTriangle( rayOrigin, rayDirection, a, b, c, localBarycoord, localNormal, localDist, localSide )
			&& localDist < minDistance
		) {

			found = true;
			minDistance = localDist;

			faceIndices = uvec4( indices.xyz, i );
			faceNormal = localNormal;

			side = localSide;
			barycoord = localBarycoord;
			dist = localDist;

		}

	}

	return found;

}

bool intersectsBVHNodeBounds( vec3 rayOrigin, vec3 rayDirection, sampler2D bvhBounds, uint currNodeIndex, out float dist ) {

	uint cni2 = currNodeIndex * 2u;
	vec3 boundsMin = texelFetch1D( bvhBounds, cni2 ).xyz;
	vec3 boundsMax = texelFetch1D( bvhBounds, cni2 + 1u ).xyz;
	return intersectsBounds( rayOrigin, rayDirection, boundsMin, boundsMax, dist );

}

// use a macro to hide the fact that we need to expand the struct into separate fields
#define	bvhIntersectFirstHit(		bvh,		rayOrigin, rayDirection, faceIndices, faceNormal, barycoord, side, dist	)	_bvhIntersectFirstHit(		bvh.position, bvh.index, bvh.bvhBounds, bvh.bvhContents,		rayOrigin, rayDirection, faceIndices, faceNormal, barycoord, side, dist	)

bool _bvhIntersectFirstHit(
	// bvh info
	sampler2D bvh_position, usampler2D bvh_index, sampler2D bvh_bvhBounds, usampler2D bvh_bvhContents,

	// ray
	vec3 rayOrigin, vec3 rayDirection,

	// output variables split into separate variables due to output precision
	inout uvec4 faceIndices, inout vec3 faceNormal, inout vec3 barycoord,
	inout float side, inout float dist
) {

	// stack needs to be twice as long as the deepest tree we expect because
	// we push both the left and right child onto the stack every traversal
	int pointer = 0;
	uint stack[ BVH_STACK_DEPTH ];
	stack[ 0 ] = 0u;

	float triangleDistance = INFINITY;
	bool found = false;
	while ( pointer > - 1 && pointer < BVH_STACK_DEPTH ) {

		uint currNodeIndex = stack[ pointer ];
		pointer --;

		// check if we intersect the current bounds
		float boundsHitDistance;
		if (
			! intersectsBVHNodeBounds( rayOrigin, rayDirection, bvh_bvhBounds, currNodeIndex, boundsHitDistance )
			|| boundsHitDistance > triangleDistance
		) {

			continue;

		}

		uvec2 boundsInfo = uTexelFetch1D( bvh_bvhContents, currNodeIndex ).xy;
		bool isLeaf = bool( boundsInfo.x & 0xffff0000u );

		if ( isLeaf ) {

			uint count = boundsInfo.x & 0x0000ffffu;
			uint offset = boundsInfo.y;

			found = intersectTriangles(
				bvh_position, bvh_index, offset, count,
				rayOrigin, rayDirection, triangleDistance,
				faceIndices, faceNormal, barycoord, side, dist
			) || found;

		} else {

			uint leftIndex = currNodeIndex + 1u;
			uint splitAxis = boundsInfo.x & 0x0000ffffu;
			uint rightIndex = currNodeIndex + boundsInfo.y;

			bool leftToRight = rayDirection[ splitAxis ] >= 0.0;
			uint c1 = leftToRight ? leftIndex : rightIndex;
			uint c2 = leftToRight ? rightIndex : leftIndex;

			// set c2 in the stack so we traverse it later. We need to keep track of a pointer in
			// the stack while we traverse. The second pointer added is the one that will be
			// traversed first
			pointer ++;
			stack[ pointer ] = c2;

			pointer ++;
			stack[ pointer ] = c1;

		}

	}

	return found;

}
`;var yi=`
struct BVH {

	usampler2D index;
	sampler2D position;

	sampler2D bvhBounds;
	usampler2D bvhContents;

};
`;var af=yi,lf=mi,uf=`
	${di}
	${hi}
`;export{Ti as AVERAGE,Ut as BVH,ei as BVHHelper,xi as BVHShaderGLSL,vi as CENTER,xn as CONTAINED,q as ExtendedTriangle,an as FloatVertexAttributeTexture,at as GeometryBVH,ot as INTERSECTED,Qs as IntVertexAttributeTexture,bs as LineBVH,Wn as LineLoopBVH,qn as LineSegmentsBVH,bt as MeshBVH,qs as MeshBVHHelper,eo as MeshBVHUniformStruct,K as NOT_INTERSECTED,Is as ObjectBVH,H as OrientedBox,Bs as PointsBVH,bi as SAH,ut as SKIP_GENERATION,Ls as SkinnedMeshBVH,co as StaticGeometryGenerator,cn as UIntVertexAttributeTexture,Te as VertexAttributeTexture,Lu as acceleratedRaycast,Uu as computeBatchedBoundsTree,zu as computeBoundsTree,Hu as disposeBatchedBoundsTree,Vu as disposeBoundsTree,qr as estimateMemoryInBytes,Mo as generateIndirectBuffer,kr as getBVHExtremes,Xr as getJSONStructure,qo as getTriangleHitPointInfo,lf as shaderDistanceFunction,uf as shaderIntersectFunction,af as shaderStructs,Wr as validateBounds};
